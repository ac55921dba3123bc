import fc from 'fast-check';
import { frameIndex } from '../media/frameIndex';
import { isDisposable, isKey } from '../media/packetTable';
import { Backlog, piecesOf, type FeedRows } from './backlog';
import { planFeed } from './feedPlan';
import { graphOf, madeUpTable, type Feed } from './work';

/** Groups of twelve pictures, with two frames that nothing refers to between those that others need. */
function groups(count: number) {
  const order: number[] = [];
  const key = new Uint8Array(count * 12);
  const disposable = new Uint8Array(count * 12);
  for (let start = 0; start < count * 12; start += 12) {
    key[start] = 1;
    order.push(start);
    for (let at = start + 1; at < start + 12; at += 3) {
      const reference = Math.min(at + 2, start + 11);
      order.push(reference);
      for (let frame = at; frame < reference; frame++) {
        order.push(frame);
        disposable[frame] = 1;
      }
    }
  }
  return madeUpTable(Uint32Array.from(order), key, disposable);
}

const table = groups(8);
const index = frameIndex(table);

/** A decoder that refuses a packet whose references it was not given since it began, and knows what it gave. */
class StrictDecoder {
  private readonly given = new Set<number>();
  readonly frames = new Set<number>();

  take({ rows, reset }: FeedRows): void {
    if (reset) this.given.clear();
    for (const row of rows) {
      const begin = isKey(table, row)
        ? row
        : ([...Array(row).keys()].findLast((before) => isKey(table, before)) ?? 0);
      for (let before = begin; before < row; before++)
        if (!isDisposable(table, before)) expect(this.given.has(before)).toBe(true);
      this.given.add(row);
      this.frames.add(table.slot[row] as number);
    }
  }
}

test('whatever is passed over, every feed is handed what its frame refers to, and its frame', () => {
  fc.assert(
    fc.property(
      fc.array(fc.boolean(), { minLength: 60, maxLength: 60 }),
      fc.integer({ min: 0, max: 11 }),
      fc.constantFrom(1, 2, 4),
      (made, begin, speed) => {
        const slots = Math.min(60, Math.floor((96 - begin - 7) / speed));
        // The second feed is not seen in every third dozen of slots.
        const seen = [0, 1].map((feed) =>
          [...Array(slots).keys()].filter((slot) => feed === 0 || slot % 36 < 24),
        );
        const feeds: Feed[] = seen.map((at, feed) => ({
          plan: planFeed(
            index,
            Int32Array.from(at, (slot) => (begin + feed * 7 + slot * speed) % 96),
          ),
          weight: 1,
        }));
        const uses = Array.from({ length: slots }, (_, slot) =>
          seen.flatMap((at, feed) => (at.includes(slot) ? [{ feed, step: at.indexOf(slot) }] : [])),
        );
        const graph = graphOf(feeds, uses);
        const backlog = new Backlog(graph);
        const decoders = feeds.map(() => new StrictDecoder());
        for (let slot = 0; slot < slots; slot++) {
          if (!made[slot]) {
            backlog.add(slot);
            continue;
          }
          for (const piece of piecesOf(graph, backlog.take(slot)))
            for (const one of piece) (decoders[one.feed] as StrictDecoder).take(one);
          for (const { feed, step } of uses[slot] ?? [])
            expect(
              (decoders[feed] as StrictDecoder).frames.has(feeds[feed]?.plan.frames[step] as number),
            ).toBe(true);
        }
      },
    ),
    { numRuns: 200, seed: 14 },
  );
});

test('a feed that goes on from a key frame is emptied before the others are handed what they need', () => {
  const feeds: Feed[] = [0, 6].map((shift) => ({
    plan: planFeed(
      index,
      Int32Array.from({ length: 60 }, (_, slot) => shift + slot),
    ),
    weight: 1,
  }));
  const graph = graphOf(
    feeds,
    Array.from({ length: 60 }, (_, slot) => feeds.map((_, feed) => ({ feed, step: slot }))),
  );
  const backlog = new Backlog(graph);
  for (let slot = 0; slot < 4; slot++) backlog.take(slot);
  for (let slot = 4; slot < 13; slot++) backlog.add(slot);
  const pieces = piecesOf(graph, backlog.take(13));
  const begunAnew = (pieces[0] ?? []).map(({ feed, rows, reset }) => ({ feed, rows: rows.length, reset }));
  expect(begunAnew).toEqual([
    { feed: 0, rows: 0, reset: true },
    { feed: 1, rows: 0, reset: true },
  ]);
  expect(
    pieces
      .slice(1)
      .flat()
      .some(({ reset }) => reset),
  ).toBe(false);
});
