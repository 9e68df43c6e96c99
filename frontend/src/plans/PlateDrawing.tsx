import { useRef } from 'react';

import type { Conflicts } from '../app/client';
import { count, mm } from '../app/units';
import type { At, Drawn } from './handPlaced';
import styles from './plans.module.css';

/** A plate from above: its parts as outlines tinted by height, each to be dragged. */
export function PlateDrawing({
  plate,
  moved,
  chosen,
  conflicts,
  choose,
  place,
}: {
  plate: Drawn;
  moved: ReadonlyMap<number, At>;
  chosen: number | null;
  conflicts: Conflicts | null;
  choose: (part: number | null) => void;
  place: (part: number, to: At) => void;
}) {
  const sheet = useRef<SVGSVGElement>(null);
  const drag = useRef<{ part: number; from: At; x: number; y: number } | null>(null);
  const { wide, deep } = plate;
  const tallest = Math.max(...plate.lying.map(({ tall }) => tall), 1);
  const wrong = new Set([...(conflicts?.meet.flat() ?? []), ...(conflicts?.off ?? [])]);
  const inMm = (event: React.PointerEvent): [number, number] => {
    const matrix = sheet.current?.getScreenCTM();
    if (!matrix) return [0, 0];
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return [at.x, deep - at.y];
  };
  const ticks = (length: number) => Array.from({ length: Math.floor(length / 10) + 1 }, (_, k) => k * 10);
  return (
    <svg
      ref={sheet}
      className={styles.plate}
      viewBox={`-3 -3 ${wide + 6} ${deep + 6}`}
      role="img"
      aria-label={`${count(plate.told.parts, 'shadow')} on a plate of ${mm(wide)} x ${mm(deep)} mm, its front at the foot`}
      onPointerMove={(event) => {
        const held = drag.current;
        if (!held) return;
        const [x, y] = inMm(event);
        place(held.part, { ...held.from, x: held.from.x + x - held.x, y: held.from.y + y - held.y });
      }}
      onPointerUp={() => (drag.current = null)}
      onPointerLeave={() => (drag.current = null)}
    >
      <rect
        x={0}
        y={0}
        width={wide}
        height={deep}
        fill="var(--sheet)"
        stroke="var(--ink)"
        strokeWidth={0.5}
      />
      {ticks(wide).map((at) => (
        <path key={`x${at}`} d={`M${at},0v${at % 50 ? -1.2 : -2.4}`} stroke="var(--ink)" strokeWidth={0.25} />
      ))}
      {ticks(deep).map((at) => (
        <path
          key={`y${at}`}
          d={`M0,${deep - at}h${at % 50 ? -1.2 : -2.4}`}
          stroke="var(--ink)"
          strokeWidth={0.25}
        />
      ))}
      {plate.lying.map((one, k) => {
        const { x, y, turn } = moved.get(k) ?? one;
        return (
          <g
            key={k}
            className={styles.part}
            data-wrong={wrong.has(k) || undefined}
            data-chosen={k === chosen || undefined}
            onPointerDown={(event) => {
              choose(k);
              const [px, py] = inMm(event);
              drag.current = { part: k, from: { x, y, turn }, x: px, y: py };
            }}
          >
            <title>{`${one.name}, ${mm(one.tall)} mm tall${one.by_hand ? ', placed by hand' : ''}`}</title>
            <g transform={`translate(${x} ${deep - y}) rotate(${-turn})`}>
              {one.outlines.map((ring, n) => (
                <polygon
                  key={n}
                  points={ring.map(([px, py]) => `${px},${-(py ?? 0)}`).join(' ')}
                  fill="var(--tint)"
                  fillOpacity={0.35 + (0.65 * one.tall) / tallest}
                  strokeDasharray={moved.has(k) ? '1.5 1' : undefined}
                  strokeWidth={one.by_hand || moved.has(k) ? 0.8 : 0.4}
                />
              ))}
            </g>
            <text x={x} y={deep - y} className={styles.height} fontSize={Math.max(wide / 34, 2)}>
              {mm(one.tall)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
