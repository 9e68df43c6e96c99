import { useEffect, useRef, useState, type RefObject } from 'react';

import type { Pick } from '../figure/picking';
import type { Brush, BrushAsked } from './brush';

const APART = 4;
/** A longer stroke goes on as another step. */
const MOST_PLACES = 2000;

interface Props {
  frame: RefObject<HTMLElement | null>;
  asked: BrushAsked;
  /** The brush that follows the pointer; null while places are only gathered. */
  brush: Brush | null;
  /** The skin under a chart place. */
  pick: (x: number, y: number) => Pick | null;
}

/** Draws strokes over the figure with the pointer; a drag that begins beside it turns it as ever. */
export function DrawnStroke(props: Props) {
  const { frame } = props;
  const [line, setLine] = useState<string[]>([]);
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });
  useEffect(() => {
    const sheet = frame.current;
    if (!sheet) return;
    let picks: Pick[] | null = null;
    // The brush a stroke began with: one that is taken away or up in the middle knows nothing of it.
    let held: Brush | null = null;
    let [lastX, lastY] = [0, 0];
    const end = () => {
      const { asked } = latest.current;
      const places = picks ?? [];
      picks = null;
      setLine([]);
      if (!places.length) return;
      held?.end();
      asked.ended(places);
    };
    const over = (event: PointerEvent) => {
      const { brush, asked, pick } = latest.current;
      const { left, top } = sheet.getBoundingClientRect();
      const [x, y] = [event.clientX - left, event.clientY - top];
      if (picks && Math.hypot(x - lastX, y - lastY) < APART) return;
      [lastX, lastY] = [x, y];
      const found = pick(x, y);
      if (!found) return;
      if (picks?.length === MOST_PLACES) end();
      const first = picks === null;
      if (first) held = asked.live ? brush : null;
      if (asked.live) {
        const place = asked.live.place(found);
        if (first) held?.begin(asked.live.stroke, place);
        else held?.place(place);
      }
      picks = [...(picks ?? []), found];
      if (!held?.atWork) setLine((before) => [...before, `${x},${y}`]);
    };
    const press = (event: PointerEvent) => {
      if (event.button !== 0 || !(event.target instanceof HTMLCanvasElement)) return;
      over(event);
      if (!picks) return;
      event.stopPropagation();
      event.target.focus();
      sheet.setPointerCapture(event.pointerId);
    };
    const move = (event: PointerEvent) => {
      if (!picks) return;
      event.stopPropagation();
      over(event);
    };
    const drop = () => {
      if (picks) held?.leave();
      picks = null;
      setLine([]);
    };
    const heard = [
      ['pointerdown', press],
      ['pointermove', move],
      ['pointerup', end],
      ['pointercancel', drop],
    ] as const;
    for (const [name, hear] of heard) sheet.addEventListener(name, hear, { capture: true });
    return () => {
      // A brush that is put down in the middle of a stroke takes it back.
      drop();
      for (const [name, hear] of heard) sheet.removeEventListener(name, hear, { capture: true });
    };
  }, [frame]);
  const state = props.brush ? 'on the skin' : 'gathering';
  useEffect(() => {
    const sheet = frame.current;
    sheet?.setAttribute('data-brush', state);
    return () => sheet?.removeAttribute('data-brush');
  }, [frame, state]);
  return (
    <svg className="drawn-stroke" aria-hidden>
      <polyline points={line.join(' ')} />
    </svg>
  );
}
