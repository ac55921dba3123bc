import { isDatabaseDown } from '@/db/client';

const longestWaitMs = 5_000;

/**
 * Repeats a database step until it is done, as long as the database is merely
 * away. Other errors are thrown at once.
 */
export async function retryWhileAway<Result>(step: () => Promise<Result>): Promise<Result> {
  for (let waitMs = 200; ; waitMs = Math.min(longestWaitMs, waitMs * 2)) {
    try {
      return await step();
    } catch (error) {
      if (!isDatabaseDown(error)) throw error;
      await new Promise((resolve) => {
        setTimeout(resolve, waitMs);
      });
    }
  }
}
