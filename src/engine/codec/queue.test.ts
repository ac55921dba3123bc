import { BoundedQueue } from './boundedQueue';
import { createPresenterShared, presenterViews } from '../playback/presenterShared';

test('a producer waits for room and a consumer for items', async () => {
  const queue = new BoundedQueue<number>(2);
  queue.push(1);
  queue.push(2);
  expect(queue.isFull).toBe(true);
  let roomy = false;
  const room = queue.room().then(() => {
    roomy = true;
  });
  await Promise.resolve();
  expect(roomy).toBe(false);
  expect(await queue.take()).toBe(1);
  await room;
  expect(roomy).toBe(true);
  expect(await queue.take()).toBe(2);
  const later = queue.take();
  queue.push(3);
  expect(await later).toBe(3);
});

test('closing lets what is in it out and then ends', async () => {
  const queue = new BoundedQueue<number>(1);
  queue.push(7);
  const room = queue.room();
  queue.close();
  await room;
  expect(await queue.take()).toBe(7);
  expect(await queue.take()).toBeNull();
});

test('shared presenter memory does not overlap', () => {
  const views = presenterViews(createPresenterShared(5, 40_000));
  views.presentedAt.fill(1);
  views.wokeAt.fill(2);
  views.ready.fill(3);
  views.timing[0] = 4;
  expect([...views.presentedAt, ...views.wokeAt, ...views.ready, ...views.timing, ...views.control]).toEqual([
    1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 3, 3, 3, 3, 3, 4, 0, 0,
  ]);
});
