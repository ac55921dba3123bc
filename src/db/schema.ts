/** All tables, by what they belong to. A file refers only to those above it. */
export * from './kinds';
export * from './librarySchema';
export * from './planSchema';
export * from './trialSchema';
export * from './timelineSchema';
