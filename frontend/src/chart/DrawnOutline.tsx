import { useState } from 'react';

type Place = [number, number];

/** A sheet over the chart on which one closed line is drawn with the pointer; in px of the chart. */
export function DrawnOutline({ drawn }: { drawn: (line: Place[]) => void }) {
  const [line, setLine] = useState<Place[] | null>(null);
  const at = (event: React.PointerEvent): Place => {
    const { left, top } = event.currentTarget.getBoundingClientRect();
    return [event.clientX - left, event.clientY - top];
  };
  const start = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    setLine([at(event)]);
  };
  const go = (event: React.PointerEvent) => {
    const last = line?.at(-1);
    const next = at(event);
    if (line && last && Math.hypot(next[0] - last[0], next[1] - last[1]) > 3) setLine([...line, next]);
  };
  const end = () => {
    if (line && line.length > 2) drawn(line);
    setLine(null);
  };
  return (
    <svg
      className="drawn-outline"
      role="img"
      aria-label="Draw a line round what is meant"
      onPointerDown={start}
      onPointerMove={go}
      onPointerUp={end}
      onPointerCancel={() => setLine(null)}
    >
      {line && <polygon points={line.map((place) => place.join()).join(' ')} />}
    </svg>
  );
}
