import { dateTime } from '@/core/format';

/** What wrote a hash list, and when, as far as it says so in a way that can be read: ", written by …, 2026-12-02 07:12". */
export const listOrigin = ({
  by,
  createdAt,
}: {
  readonly by: string | null;
  readonly createdAt: string | null;
}): string =>
  `${by ? `, written by ${by}` : ''}${createdAt && !Number.isNaN(Date.parse(createdAt)) ? `, ${dateTime(createdAt)}` : ''}`;
