package store

// Migrator lets a test stop between two steps.
var Migrator = migrator
