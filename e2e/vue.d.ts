declare module "*.vue";
