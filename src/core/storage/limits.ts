/** Numbers of streams a ramp tries at most. */
export const mostRampSteps = 12;

/** Streams side by side at most: each is a thread. */
export const mostStreams = 48;
