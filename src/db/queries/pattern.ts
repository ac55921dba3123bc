/** A text as a pattern of the database that stands for itself. */
export const plain = (text: string) => text.replace(/[\\%_]/g, '\\$&');
