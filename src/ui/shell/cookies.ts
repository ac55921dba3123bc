/** Set where somebody has hidden the first steps. */
export const firstStepsCookie = 'navvy-first-steps';
