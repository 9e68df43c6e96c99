import { useId } from 'react';

import type { SectionDrawing } from '../app/client';
import { mm, roundLength } from '../app/units';

const WIDTH = 396;
const ARROWS = 40;
/** Share of the way to the film that a drawing shows, under which it is looked at end on. */
const END_ON = 0.3;
/** Room for the word at a side. */
const END_MARGIN = 34;

interface Props {
  drawing: SectionDrawing;
  proposal: SectionDrawing | null;
  height: number;
  /** A change of size draws the same outlines larger. */
  grown: number | null;
}

type Outline = SectionDrawing['outlines'][number];

/** A dimensioned section through the place of a finding, cut from the true mesh; lengths in print mm. */
export function Section({ drawing, proposal, height, grown }: Props) {
  const hatch = useId();
  const proposed =
    proposal?.outlines ?? (grown ? drawing.outlines.map((line) => line.map((p) => grow(p, grown))) : []);
  // The wall, and the one that is proposed, lie in the middle with room for the arrows.
  const wall = drawing.wall ?? 0;
  const [top, foot] = drawing.wall === null ? [0, 0] : around(proposed, -wall / 2, [0, -wall]);
  const least = drawing.film ? Math.min(WIDTH, height) : WIDTH;
  const scale = Math.min(least / 2 / drawing.reach, (height - 2 * ARROWS) / Math.max(top - foot, 1e-6));
  const middle = height / 2 + ((top + foot) / 2) * scale;
  const at = (x: number, y: number) =>
    `${(WIDTH / 2 + x * scale).toFixed(2)} ${(middle - y * scale).toFixed(2)}`;
  const closed = drawing.outlines.filter(closes);
  const solid = closed
    .filter((line) => !isLoneHollow(line, closed))
    .map((line) => path(line, at))
    .join('');
  const hollow = closed
    .filter((line) => isLoneHollow(line, closed))
    .map((line) => path(line, at))
    .join('');
  const open = drawing.outlines
    .filter((line) => !closes(line))
    .map((line) => path(line, at))
    .join('');
  const bar = roundLength(drawing.reach * 0.6);
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="img"
      aria-label={drawing.wall === null ? 'Section drawing' : `Section drawing, wall ${mm(drawing.wall)} mm`}
    >
      <defs>
        <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="6" stroke="var(--soft)" strokeWidth="0.7" />
        </pattern>
        <pattern
          id={`${hatch}-beside`}
          width="6"
          height="6"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(-45)"
        >
          <line x1="0" y1="0" x2="0" y2="6" stroke="var(--soft)" strokeWidth="0.7" />
        </pattern>
      </defs>
      <path d={solid} fill={`url(#${hatch})`} fillRule="nonzero" stroke="var(--ink)" strokeWidth="1.5" />
      {drawing.beside && drawing.beside.length > 0 && (
        <path
          d={drawing.beside
            .filter(closes)
            .map((line) => path(line, at))
            .join('')}
          fill={`url(#${hatch}-beside)`}
          fillRule="nonzero"
          stroke="var(--ink)"
          strokeWidth="1.5"
        />
      )}
      <path d={open} fill="none" stroke="var(--mark)" strokeWidth="1.5" />
      {hollow && <path d={hollow} fill="none" stroke="var(--ink)" strokeWidth="1.5" />}
      {proposed.length > 0 && (
        <path
          d={proposed.map((line) => path(line, at)).join('')}
          fill="none"
          stroke="var(--mark)"
          strokeWidth="1.2"
          strokeDasharray="5 4"
        />
      )}
      {drawing.film && <Ends way={drawing.film} height={height} />}
      {drawing.wall === null ? (
        <circle
          cx={WIDTH / 2 + drawing.at[0] * scale}
          cy={height / 2 - drawing.at[1] * scale}
          r={9}
          fill="none"
          stroke="var(--mark)"
          strokeWidth="2"
          strokeDasharray="2.5 3"
        />
      ) : (
        <Dimension wall={drawing.wall} scale={scale} middle={middle} />
      )}
      <g
        transform={`translate(${WIDTH - 18 - bar * scale} ${height - 14})`}
        stroke="var(--ink)"
        strokeWidth="0.8"
      >
        <rect
          x={-5}
          y={-19}
          width={bar * scale + 10}
          height={25}
          fill="var(--sheet)"
          fillOpacity="0.8"
          stroke="none"
        />
        <path d={`M0 -4V4M0 0H${bar * scale}M${bar * scale} -4V4`} fill="none" />
        <text x={(bar * scale) / 2} y={-5} textAnchor="middle" fontSize="12" fill="var(--soft)" stroke="none">
          {mm(bar)} mm
        </text>
      </g>
    </svg>
  );
}

/** Which side of the drawing hangs from the plate, and which is at the film. */
function Ends({ way: [across, up], height }: { way: [number, number]; height: number }) {
  const long = Math.hypot(across, up);
  if (long < END_ON) return null;
  const [x, y] = [across / long, up / long];
  const reach = { x: WIDTH / 2 - END_MARGIN, y: height / 2 - 14 };
  const far = Math.min(reach.x / Math.max(Math.abs(x), 1e-6), reach.y / Math.max(Math.abs(y), 1e-6));
  const at = (side: number) => ({ x: WIDTH / 2 + side * far * x, y: height / 2 - side * far * y + 4 });
  return (
    <g fontSize="13" fill="var(--ink)" textAnchor="middle" fontStyle="italic">
      <text {...at(1)}>film end</text>
      <text {...at(-1)}>plate end</text>
    </g>
  );
}

/** The wall straight down from the place, between two arrows, with its sounding. */
function Dimension({ wall, scale, middle }: { wall: number; scale: number; middle: number }) {
  const x = WIDTH / 2;
  const foot = middle + wall * scale;
  return (
    <g stroke="var(--ink)" fill="none">
      <path
        d={`M${x} ${middle - 34}V${middle}M${x - 4} ${middle - 8}L${x} ${middle}L${x + 4} ${middle - 8}`}
      />
      <path d={`M${x} ${foot + 34}V${foot}M${x - 4} ${foot + 8}L${x} ${foot}L${x + 4} ${foot + 8}`} />
      <line x1={x} y1={middle} x2={x} y2={foot} strokeWidth="2.2" />
      <text x={x + 10} y={middle - 18} fontSize="21" className="sounding" fill="var(--ink)" stroke="none">
        {mm(wall)}
      </text>
    </g>
  );
}

/** How far up and down from a height solid reaches over the middle of the drawing, at least as far as is given. */
function around(outlines: Outline[], from: number, [top, foot]: [number, number]): [number, number] {
  const met = outlines
    .flatMap(sides)
    .filter(([[x], [u]]) => x > 0 !== u > 0)
    .map(([[x, y], [u, v]]) => y - (x * (v - y)) / (u - x));
  const above = Math.min(...met.filter((y) => y > from));
  const below = Math.max(...met.filter((y) => y < from));
  return Number.isFinite(above) && Number.isFinite(below)
    ? [Math.max(top, above), Math.min(foot, below)]
    : [top, foot];
}

function closes(line: Outline): boolean {
  const first = line[0];
  const last = line[line.length - 1];
  return !!first && !!last && first[0] === last[0] && first[1] === last[1];
}

/** Outlines run with the solid on their left: a hollow where nothing closes about it has its solid outside. */
function isLoneHollow(line: Outline, closed: Outline[]): boolean {
  const [first] = line;
  return !!first && area(line) < 0 && !closed.some((other) => area(other) > 0 && holds(other, first));
}

function area(line: Outline): number {
  return sides(line).reduce((sum, [[x, y], [u, v]]) => sum + (x * v - u * y) / 2, 0);
}

function holds(line: Outline, [x, y]: Outline[number]): boolean {
  const passed = sides(line).filter(
    ([[a, b], [c, d]]) => b > y !== d > y && x < a + ((c - a) * (y - b)) / (d - b),
  );
  return passed.length % 2 === 1;
}

function sides(line: Outline): [Outline[number], Outline[number]][] {
  return line.slice(1).map((end, k) => [line[k] ?? end, end]);
}

function path(line: Outline, at: (x: number, y: number) => string): string {
  return line.map(([x, y], k) => `${k ? 'L' : 'M'}${at(x, y)}`).join('') + (closes(line) ? 'Z' : '');
}

const grow = ([x, y]: Outline[number], factor: number): Outline[number] => [x * factor, y * factor];
