import { useRef, useState } from 'react';

import type { Pick } from '../figure/picking';

const APART = 4;

interface Props {
  /** The skin under a chart place. */
  pick: (x: number, y: number) => Pick | null;
  drawn: (picks: Pick[]) => void;
}

/** A sheet over the chart on which a stroke is drawn over the figure; what lies beside it is passed over. */
export function DrawnStroke({ pick, drawn }: Props) {
  const picks = useRef<Pick[]>([]);
  const last = useRef<[number, number] | null>(null);
  const [line, setLine] = useState<string[]>([]);
  const over = (event: React.PointerEvent) => {
    const { left, top } = event.currentTarget.getBoundingClientRect();
    const [x, y] = [event.clientX - left, event.clientY - top];
    if (last.current && Math.hypot(x - last.current[0], y - last.current[1]) < APART) return;
    last.current = [x, y];
    const place = pick(x, y);
    if (!place) return;
    picks.current.push(place);
    setLine((before) => [...before, `${x},${y}`]);
  };
  const start = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    picks.current = [];
    last.current = null;
    over(event);
  };
  const end = () => {
    last.current = null;
    setLine([]);
    if (picks.current.length) drawn(picks.current);
  };
  return (
    <svg
      className="drawn-outline"
      role="img"
      aria-label="Draw a stroke over the figure"
      onPointerDown={start}
      onPointerMove={(event) => event.buttons && over(event)}
      onPointerUp={end}
      onPointerCancel={() => setLine([])}
    >
      <polyline points={line.join(' ')} />
    </svg>
  );
}
