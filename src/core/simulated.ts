const mark = ' (simulated)';

/** A name as it stands where only text can: one of something that is made up says so. */
export function plainName(name: string, simulated: boolean): string {
  return simulated ? `${name}${mark}` : name;
}

/** Whether a text holds a name that says so. */
export function saysSimulated(text: string): boolean {
  return text.includes(mark);
}
