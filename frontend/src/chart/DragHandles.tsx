import { useEffect, useRef, useState } from 'react';
import { Vector3, type Box3 } from 'three';

import type { Pick } from '../figure/picking';
import {
  alongAxis,
  AXES,
  NOTHING,
  proposalSays,
  proposedCorners,
  type HandlesAsked,
  type Proposal,
} from './handles';
import { boxPath } from './placing';
import type { View } from './framing';

interface Props {
  asked: HandlesAsked;
  box: Box3;
  project: View['project'];
  /** The skin of the host under a chart place. */
  pick: (x: number, y: number) => Pick | null;
}

type Grip = (typeof AXES)[number] | 'seat' | 'turn' | 'grow';

const GRIPS: { grip: Grip; says: string; step: number; coarse: number; unit: string }[] = [
  { grip: 'across', says: 'Move it across', step: 0.5, coarse: 5, unit: 'mm' },
  { grip: 'deep', says: 'Move it deep', step: 0.5, coarse: 5, unit: 'mm' },
  { grip: 'up', says: 'Move it up', step: 0.5, coarse: 5, unit: 'mm' },
  { grip: 'turn', says: 'Turn it about the upright', step: 5, coarse: 45, unit: 'degrees' },
  { grip: 'grow', says: 'Grow it', step: 0.02, coarse: 0.1, unit: 'times' },
];
const REACH = 34;

/** Handles about a bit: along the axes, about the upright, larger and smaller, and the middle, which sits on the skin
 * or moves freely beside it. By the pointer, or by the arrow keys and Enter. */
export function DragHandles({ asked, box, project, pick }: Props) {
  const [proposal, setProposal] = useState<Proposal>(NOTHING);
  const held = useRef<{ grip: Grip; x: number; y: number } | null>(null);
  const latest = useRef(proposal);
  useEffect(() => {
    latest.current = proposal;
  }, [proposal]);
  const middle = box.getCenter(new Vector3());
  const size = box.getSize(new Vector3());
  const at = project(middle.toArray());
  const axes = ([size.x, size.y, size.z] as const).map((length, k) => {
    const one = middle.clone().setComponent(k, middle.getComponent(k) + 1);
    const end = project(one.toArray());
    const perMm = [end.x - at.x, end.y - at.y] as const;
    const pixels = Math.hypot(...perMm);
    const out = pixels < 1e-3 ? 0 : (length / 2) * pixels + REACH;
    return { perMm, x: at.x + (perMm[0] / (pixels || 1)) * out, y: at.y + (perMm[1] / (pixels || 1)) * out };
  });
  const spread = Math.max(...[0, 1, 2, 3, 4, 5, 6, 7].map((k) => away(corner(box, k, project), at)));
  const places: Record<Grip, { x: number; y: number }> = {
    across: axes[0] ?? at,
    deep: axes[1] ?? at,
    up: axes[2] ?? at,
    seat: at,
    turn: { x: at.x - spread * 0.75 - 2 * REACH, y: at.y + spread * 0.6 + REACH },
    grow: { x: at.x + spread * 0.75 + 2 * REACH, y: at.y - spread * 0.6 - REACH },
  };
  const dragged = (grip: Grip, from: { x: number; y: number }, x: number, y: number): Proposal => {
    const drag = [x - from.x, y - from.y] as const;
    const k = AXES.indexOf(grip as (typeof AXES)[number]);
    if (k >= 0) {
      const by: [number, number, number] = [0, 0, 0];
      by[k] = rounded(alongAxis(drag, axes[k]?.perMm ?? [0, 0]), asked.factor);
      return { ...NOTHING, by };
    }
    if (grip === 'turn') return { ...NOTHING, turn: Math.round(drag[0]) };
    if (grip === 'grow') {
      const grow = Math.hypot(x - at.x, y - at.y) / Math.max(away(from, at), 1);
      return { ...NOTHING, grow: Math.max(0.05, Math.round(grow * 50) / 50) };
    }
    const seat = pick(x, y);
    // Beside the figure it moves in the plane of the chart's width and the upright.
    if (seat) return { ...NOTHING, seat };
    const across = alongAxis([drag[0], 0], axes[0]?.perMm ?? [0, 0]);
    const up = alongAxis([0, drag[1]], axes[2]?.perMm ?? [0, 0]);
    return { ...NOTHING, by: [rounded(across, asked.factor), 0, rounded(up, asked.factor)] };
  };
  const here = (event: React.PointerEvent) => {
    const sheet = (event.currentTarget as SVGElement).ownerSVGElement ?? event.currentTarget;
    const { left, top } = sheet.getBoundingClientRect();
    return { x: event.clientX - left, y: event.clientY - top };
  };
  const press = (event: React.PointerEvent, grip: Grip) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { grip, ...here(event) };
  };
  const move = (event: React.PointerEvent) => {
    const { x, y } = here(event);
    if (held.current) setProposal(dragged(held.current.grip, held.current, x, y));
  };
  const finish = () => {
    const proposed = latest.current;
    setProposal(NOTHING);
    if (proposalSays(proposed, asked.factor)) asked.done(proposed);
  };
  const release = (event: React.PointerEvent) => {
    if (!held.current) return;
    const { x, y } = here(event);
    latest.current = dragged(held.current.grip, held.current, x, y);
    held.current = null;
    finish();
  };
  const typed = (grip: Grip, step: number, coarse: number) => (event: React.KeyboardEvent) => {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (event.key === 'Enter') finish();
    else if (event.key === 'Escape') setProposal(NOTHING);
    else if (way)
      setProposal((before) => nudged(before, grip, way * (event.shiftKey ? coarse : step), asked.factor));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const says = proposalSays(proposal, asked.factor);
  const corners = says ? proposedCorners(box, proposal).map((place) => project(place)) : [];
  return (
    <svg className="handles" role="group" aria-label={`Handles of ${asked.name}`}>
      {says && <path className="proposed" d={boxPath(corners)} />}
      {AXES.map((axis) => (
        <line key={axis} x1={at.x} y1={at.y} x2={places[axis].x} y2={places[axis].y} />
      ))}
      <circle
        className="grip"
        cx={at.x}
        cy={at.y}
        r="9"
        onPointerDown={(event) => press(event, 'seat')}
        onPointerMove={move}
        onPointerUp={release}
      >
        <title>Drag it onto the skin, or beside it</title>
      </circle>
      {GRIPS.map(({ grip, says: label, step, coarse, unit }) => (
        <g
          key={grip}
          className="grip"
          transform={`translate(${places[grip].x},${places[grip].y})`}
          tabIndex={0}
          role="slider"
          aria-label={`${label}, ${unit}: arrow keys, then Enter`}
          aria-valuenow={valueOf(proposal, grip, asked.factor)}
          onPointerDown={(event) => press(event, grip)}
          onPointerMove={move}
          onPointerUp={release}
          onKeyDown={typed(grip, step, coarse)}
          onBlur={() => !held.current && setProposal(NOTHING)}
        >
          <rect x="-22" y="-11" width="44" height="22" />
          <text textAnchor="middle" y="4">
            {grip}
          </text>
        </g>
      ))}
      {says && (
        <text className="proposal-says" x={at.x} y={at.y + spread + 26} textAnchor="middle">
          {says}
        </text>
      )}
    </svg>
  );
}

function away(a: { x: number; y: number }, b: { x: number; y: number }): number {
  return Math.hypot(a.x - b.x, a.y - b.y);
}

function corner(box: Box3, k: number, project: View['project']) {
  return project([
    k & 1 ? box.max.x : box.min.x,
    k & 2 ? box.max.y : box.min.y,
    k & 4 ? box.max.z : box.min.z,
  ]);
}

/** To a tenth of a print millimetre. */
function rounded(figure: number, factor: number): number {
  return Math.round(figure * factor * 10) / 10 / factor;
}

function nudged(before: Proposal, grip: Grip, by: number, factor: number): Proposal {
  const k = AXES.indexOf(grip as (typeof AXES)[number]);
  if (k >= 0) {
    const moved: [number, number, number] = [...before.by];
    moved[k] = (moved[k] ?? 0) + by / factor;
    return { ...before, by: moved };
  }
  if (grip === 'turn') return { ...before, turn: before.turn + by };
  return { ...before, grow: Math.max(0.05, Math.round((before.grow + by) * 100) / 100) };
}

function valueOf(proposal: Proposal, grip: Grip, factor: number): number {
  const k = AXES.indexOf(grip as (typeof AXES)[number]);
  if (k >= 0) return Math.round((proposal.by[k] ?? 0) * factor * 10) / 10;
  return grip === 'turn' ? proposal.turn : proposal.grow;
}
