'use client';
import { useTheme } from 'next-themes';
import { useEffect, useRef, useState } from 'react';

/** A canvas that follows its box's width and the theme. `paint` gets CSS pixels; it runs once per frame at most. */
export function useCanvas(
  height: number,
  paint: (pen: CanvasRenderingContext2D, width: number, scale: number) => void,
) {
  const ref = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  const { resolvedTheme } = useTheme();
  useEffect(() => {
    const box = ref.current?.parentElement;
    if (!box) return;
    const observer = new ResizeObserver(() => setWidth(box.clientWidth));
    observer.observe(box);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    const canvas = ref.current;
    const pen = canvas?.getContext('2d');
    if (!canvas || !pen || width === 0) return;
    const request = requestAnimationFrame(() => {
      const scale = window.devicePixelRatio || 1;
      if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
        canvas.width = Math.round(width * scale);
        canvas.height = Math.round(height * scale);
      }
      pen.setTransform(scale, 0, 0, scale, 0, 0);
      paint(pen, width, scale);
    });
    return () => cancelAnimationFrame(request);
  }, [paint, width, height, resolvedTheme]);
  return { ref, width };
}
