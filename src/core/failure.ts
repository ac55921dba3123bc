/**
 * Failures and refusals are codes with what they are about; the words for people stand in one list for each layer
 * (`core/words`, `engine/words`, `server/words`), so that all of them can be said in another way, or another language.
 */
export type Words = string | ((given: never) => string);

/** What the words of a code are given: nothing where they are always the same. */
export type GivenTo<Said extends Words> = Said extends (given: infer Given) => string
  ? Given
  : Readonly<Record<string, never>>;

/** Arguments behind a code: what it is about may be left out where that is nothing. */
export type About<Said extends Words, More extends readonly unknown[] = []> = Said extends string
  ? [given?: GivenTo<Said>, ...more: Partial<More>]
  : [given: GivenTo<Said>, ...more: Partial<More>];

/** A code in words. */
export const wordsFor = (said: Words, given: unknown): string =>
  typeof said === 'string' ? said : (said as (given: unknown) => string)(given);
