import { axisBottom, axisLeft, type ScaleLinear, type Selection } from 'd3';

type Group = Selection<SVGGElement, unknown, null, undefined>;

/** Figures of an axis in the interface's face and ink. */
export function styleFigures(group: Group): void {
  group
    .selectAll('text')
    .attr('fill', 'var(--muted)')
    .attr('font-size', 12)
    .attr('font-family', 'var(--font-mono)');
}

/** A vertical axis of values with hairlines across `width`. */
export function drawValueAxis(
  group: Group,
  y: ScaleLinear<number, number>,
  width: number,
  ticks: number,
): void {
  group.call(axisLeft(y).ticks(ticks).tickSizeOuter(0)).select('.domain').remove();
  group.selectAll('.tick line').clone().attr('x2', width).attr('stroke', 'var(--line)');
  styleFigures(group);
}

/** A horizontal axis with a figure about every 110 px. */
export function drawTimeAxis(group: Group, x: ScaleLinear<number, number>, width: number): void {
  group.call(
    axisBottom(x)
      .ticks(Math.max(2, width / 110))
      .tickSizeOuter(0),
  );
  styleFigures(group);
}
