import { useState } from 'react';

import type { PartRecord } from '../app/client';
import type { BrushAsked } from '../chart/brush';

type Vector = [number, number, number];

/** A place picked on the figure: figure mm, with the way its skin looks there and the way to who picked it. */
export interface Pick {
  point: Vector;
  normal: Vector;
  view: Vector;
}

/** An outline drawn over the chart: figure mm along `across` and along what is up, seen from where `view` points. */
export interface Outline {
  view: Vector;
  across: Vector;
  outline: [number, number][];
}

/** A request for picks, how many and what for, for an outline, or for strokes until it is left; and what to do with them. */
export type Asked = { says: string } & (
  | { count: number; then: (picks: Pick[]) => void }
  | { outlined: (outline: Outline) => void }
  | { brush: BrushAsked }
);

export interface Picking {
  asked: Asked | null;
  picks: Pick[];
  ask: (asked: Asked) => void;
  leave: () => void;
  /** Hears of a pick, where picks are asked for. */
  picked: ((pick: Pick) => void) | undefined;
  /** Hears of an outline, where one is asked for. */
  outlined: ((outline: Outline) => void) | undefined;
  /** The brush that lies ready, where strokes are asked for. */
  brush: BrushAsked | undefined;
}

/** Picking places, drawing an outline or a stroke on the chart, for whoever asked last. */
export function usePicking(): Picking {
  const [asked, setAsked] = useState<Asked | null>(null);
  const [picks, setPicks] = useState<Pick[]>([]);
  const ask = (next: Asked) => {
    setPicks([]);
    setAsked(next);
  };
  const leave = () => {
    setPicks([]);
    setAsked(null);
  };
  const counted = asked && 'count' in asked ? asked : null;
  const drawn = asked && 'outlined' in asked ? asked : null;
  const brush = asked && 'brush' in asked ? asked.brush : undefined;
  const picked = counted
    ? (pick: Pick) => {
        const now = [...picks, pick];
        if (now.length < counted.count) return setPicks(now);
        leave();
        counted.then(now);
      }
    : undefined;
  const outlined = drawn
    ? (outline: Outline) => {
        leave();
        drawn.outlined(outline);
      }
    : undefined;
  return { asked, picks, ask, leave, picked, outlined, brush };
}

/** A pick as the recipe keeps it. */
export function anchor(pick: Pick, source: string) {
  return { point: pick.point, normal: pick.normal, source };
}

/** A pick to sit on; on a bit or a form with what that was like, so that what sits there goes with it. */
export function seat(pick: Pick, part: PartRecord | undefined) {
  const { part: host = '', frame } = part?.facts ?? {};
  return { ...anchor(pick, part?.source ?? ''), ...(frame ? { host, frame } : { host: '' }) };
}
