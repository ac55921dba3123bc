'use client';
import { useEffect, type RefObject } from 'react';

/** Takes the wheel over a box for itself, so that the page does not scroll. */
export function useWheel(
  box: RefObject<HTMLElement | null>,
  onWheel: (event: WheelEvent, element: HTMLElement) => void,
): void {
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const take = (event: WheelEvent) => {
      event.preventDefault();
      onWheel(event, element);
    };
    element.addEventListener('wheel', take, { passive: false });
    return () => element.removeEventListener('wheel', take);
  });
}
