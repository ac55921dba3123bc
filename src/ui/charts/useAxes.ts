'use client';
import { select, type ScaleLinear } from 'd3';
import { useEffect, useRef } from 'react';
import { drawTimeAxis, drawValueAxis } from './axes';

/** A group that holds a plot's two axes and follows its scales; nothing is drawn before the width is known. */
export function useAxes(
  x: ScaleLinear<number, number>,
  y: ScaleLinear<number, number>,
  width: number,
  height: number,
  margin: { readonly right: number; readonly bottom: number; readonly left: number },
) {
  const axes = useRef<SVGGElement>(null);
  useEffect(() => {
    if (!axes.current || width === 0) return;
    const group = select(axes.current);
    group.selectAll('*').remove();
    drawTimeAxis(group.append('g').attr('transform', `translate(0,${height - margin.bottom})`), x, width);
    drawValueAxis(
      group.append('g').attr('transform', `translate(${margin.left},0)`),
      y,
      width - margin.right - margin.left,
      5,
    );
  }, [x, y, width, height, margin]);
  return axes;
}
