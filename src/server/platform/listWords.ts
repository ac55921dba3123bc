import { array, date, mixed, number, string } from 'yup';

/** Rows on a page of a list where nobody says how many, the most that can be asked for, and the most pages. */
export const usualSize = 50;
export const mostSize = 500;
export const mostPages = 1_000_000;

/** One of these words, or several that are set apart by commas. */
export const oneOf = <Word extends string>(words: readonly Word[], name: string) =>
  array(
    mixed<Word>()
      .oneOf(
        [...words],
        ({ value }: { value: unknown }) =>
          `There is no ${name} “${String(value).slice(0, 40)}”. There are ${words.join(', ')}.`,
      )
      .required(),
  ).transform((_, sent: unknown) => (typeof sent === 'string' && sent !== '' ? sent.split(',') : undefined));
export const id = () => string().max(64, 'An id is shorter than this.');
export const moment = (name: string) =>
  date().typeError(`Give “${name}” as a date and time, for example 2026-03-01T18:00:00Z.`);
export const whole = (name: string, most: number) => {
  const say = `“${name}” is a whole number from 1 to ${most}.`;
  return number().typeError(say).integer(say).min(1, say).max(most, say);
};
