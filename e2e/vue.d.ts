declare module '*.vue'
