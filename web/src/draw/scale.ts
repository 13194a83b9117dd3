import { type ScaleLinear, scaleLinear } from "d3-scale";

/** The part of the wall clock that is shown, seconds since 1970. */
export interface Span {
  from: number;
  to: number;
}

export type Scale = ScaleLinear<number, number>;

export const wallScale = (span: Span, left: number, right: number): Scale =>
  scaleLinear([span.from, span.to], [left, right]);

/** Zoom or move a span, within what the sky is known for. */
export function within(span: Span, limit: Span): Span {
  const length = Math.min(span.to - span.from, limit.to - limit.from);
  const from = Math.min(Math.max(span.from, limit.from), limit.to - length);
  return { from, to: from + length };
}

/** Index of the value nearest to `wanted` in an ascending list. */
export function nearest(values: number[], wanted: number): number {
  let low = 0;
  let high = values.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if ((values[middle] ?? 0) < wanted) low = middle;
    else high = middle;
  }
  return wanted - (values[low] ?? 0) <= (values[high] ?? 0) - wanted ? low : high;
}
