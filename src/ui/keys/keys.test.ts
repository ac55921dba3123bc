import fc from 'fast-check';
import { HeldKeys } from './heldKeys';

/** Held keys on a clock of the test's own. What is to be done later is done by `settle`. */
function heldKeys(run?: (key: string, held: HeldKeys) => void) {
  const done: string[] = [];
  const later: (() => void)[] = [];
  const clock = { ms: 0 };
  const held: HeldKeys = new HeldKeys(
    (key) => {
      done.push(key);
      run?.(key, held);
    },
    () => clock.ms,
    (call) => later.push(call),
  );
  return {
    held,
    done,
    clock,
    settle: () => {
      while (later.length > 0) later.shift()?.();
    },
  };
}

test('a key pressed when the last part has come does not overtake those that are kept', () => {
  const { held, done, settle } = heldKeys();
  held.begin('trace');
  held.hold('Home');
  expect(held.areDue).toBe(false);
  held.end('trace');
  // The chart is there and would take it: Home is to come first.
  expect(held.areDue).toBe(true);
  held.follow('ArrowRight');
  settle();
  expect(done).toEqual(['Home', 'ArrowRight']);
  expect(held.areDue).toBe(false);
});

test('keys are kept until the last part of a page has come, and run in their order', () => {
  const { held, done, settle } = heldKeys();
  held.hold('a');
  held.begin('script');
  held.begin('trace');
  held.hold('End');
  held.hold('ArrowLeft');
  held.end('script');
  settle();
  expect(done).toEqual([]);
  held.end('trace');
  held.end('trace');
  settle();
  expect(done).toEqual(['End', 'ArrowLeft']); // and not "a", which a whole page had no command for
  held.hold('b');
  held.begin('trace');
  held.end('trace');
  settle();
  expect(done).toEqual(['End', 'ArrowLeft']);
});

test('what was pressed on a page that is left is not for the next one; a key that leaves it passes the others on', () => {
  const { held, done, settle } = heldKeys((key, keys) => {
    if (key === 'Shift+M') keys.leave('media');
  });
  held.begin('script');
  for (const key of ['Escape', 'Shift+M', 'u']) held.hold(key);
  held.end('script');
  settle();
  expect(done).toEqual(['Escape', 'Shift+M']);
  held.end('media');
  settle();
  expect(done).toEqual(['Escape', 'Shift+M', 'u']);
  held.begin('trace');
  held.hold('n');
  held.leave('rig');
  held.end('trace');
  held.end('rig');
  settle();
  expect(done).toHaveLength(3);
});

test('a key that waits for too long is given up', () => {
  const { held, done, clock, settle } = heldKeys();
  held.begin('page');
  held.hold('x', -1);
  held.hold('y', 1);
  clock.ms = 15_000;
  held.end('page');
  settle();
  expect(done).toEqual(['y']);
});

test('whatever parts come in whatever order, each kept key runs once, in order, and none while a part is missing', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.oneof(
          fc.record({ part: fc.nat(3) }),
          fc.record({ key: fc.string({ minLength: 1, maxLength: 2 }) }),
        ),
        { maxLength: 40 },
      ),
      (steps) => {
        const missing = new Set<number>();
        const { held, done, settle } = heldKeys(() => expect(missing.size).toBe(0));
        const wanted: string[] = [];
        for (const step of steps) {
          if ('key' in step) {
            if (missing.size > 0) wanted.push(step.key);
            held.hold(step.key);
          } else if (missing.delete(step.part)) held.end(step.part);
          else {
            settle(); // the page is drawn before another part of it goes
            missing.add(step.part);
            held.begin(step.part);
          }
        }
        for (const part of [...missing]) {
          missing.delete(part);
          held.end(part);
        }
        settle();
        expect(done).toEqual(wanted);
      },
    ),
  );
});
