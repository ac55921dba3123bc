/** A bundle that cannot be read, with the place and what to do. */
export class BundleError extends Error {}
