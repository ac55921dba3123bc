import type { TimelineSubject } from '@/core/timeline/subject';

type Course = TimelineSubject['timeline']['course'];

/** How a course of a timeline is asked for again, but for how often it goes round. */
export function askedCourse({
  course,
  read,
  slots,
}: Pick<TimelineSubject['timeline'], 'course' | 'read' | 'slots'>) {
  const { speed, loop, prerendered } = course;
  const asked = { read, speed, prerendered: prerendered !== undefined };
  if (loop) return { ...asked, from: loop.from, to: loop.to };
  return speed > 0
    ? { ...asked, from: course.from, to: Math.min(slots, course.from + course.slots * speed) }
    : { ...asked, from: Math.max(0, course.from + 1 - course.slots * -speed), to: course.from + 1 };
}

/** How often a course that goes round does so; 1 where it does not. */
export function roundsOf({ loop, slots, speed }: Course): number {
  return loop ? Math.max(2, Math.round((slots * Math.abs(speed)) / (loop.to - loop.from))) : 1;
}
