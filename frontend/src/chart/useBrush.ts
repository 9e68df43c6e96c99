import { useEffect, useRef, useState } from 'react';

import type { Finding } from '../app/client';
import { Brush, type BrushAsked, type BrushState } from './brush';
import type { DisplayMesh } from './displayMesh';

/** An open wall of the region under the brush: print mm, before the brush was taken up and now. */
interface Following {
  title: string;
  before: number;
  now: number;
  limit: number;
}

/** What a brush says while it works: how it stands, the thinnest wall under the stroke, and the open walls there. */
export interface BrushSays {
  state: BrushState;
  /** Print mm; null before the first place of a stroke. */
  least: number | null;
  /** Whether the last place moved nothing. */
  idle: boolean;
  following: Following[];
}

interface Asks {
  asked: BrushAsked | undefined;
  /** The part that is drawn; a first look has none. */
  part: string | undefined;
  mesh: DisplayMesh | undefined;
  /** Open findings of the part. */
  findings: readonly Finding[];
  factor: number;
  /** Whether what is drawn is from before the last change. */
  stale: boolean;
  says: (says: BrushSays | null) => void;
  redraw: () => void;
}

/** The brush that lies ready, and the mesh it works on, which is drawn until the check of its strokes is done. */
export function useBrush({ asked, part, mesh, findings, factor, stale, says, redraw }: Asks): {
  brush: Brush | null;
  worked: DisplayMesh | null;
} {
  const [brush, setBrush] = useState<{ brush: Brush; part: string } | null>(null);
  const [usable, setUsable] = useState(false);
  const latest = useRef({ mesh, findings, factor, says, redraw, asked });
  useEffect(() => {
    latest.current = { mesh, findings, factor, says, redraw, asked };
  });
  const live = asked?.live;
  const key = live && mesh ? `${live.figure} ${live.part}` : null;
  useEffect(() => {
    const { asked, mesh, findings, factor } = latest.current;
    if (key === null || !asked?.live || !mesh) return;
    const walls = findings.flatMap((finding) => followable(finding, mesh));
    let state: BrushState = { at: 'laying out' };
    const touched = new Set<number>();
    let least: number | null = null;
    let idle = false;
    const tell = () =>
      latest.current.says({
        state,
        least: least === null ? null : least * factor,
        idle,
        following: walls
          .filter(({ vertex }) => touched.has(vertex))
          .map(({ finding, vertex, wall }) => ({
            title: finding.title,
            before: finding.measured,
            now: finding.measured + ((laid.worked.walls[vertex] ?? wall) - wall) * factor,
            limit: finding.limit,
          })),
      });
    const laid = new Brush(asked.live, mesh, {
      state: (now) => {
        state = now;
        setUsable(now.at !== 'afterwards');
        tell();
      },
      touched: (vertices, thinnest) => {
        const here = new Set(vertices);
        for (const { vertex } of walls) if (here.has(vertex)) touched.add(vertex);
        idle = !vertices.length;
        if (!idle) least = thinnest < 1e5 ? thinnest : null;
        latest.current.redraw();
        tell();
      },
    });
    setBrush({ brush: laid, part: asked.live.part });
    return () => {
      laid.close();
      setUsable(false);
      latest.current.says(null);
    };
  }, [key]);
  const [before, setBefore] = useState({ stale, asked: !!asked });
  if (before.stale !== stale || before.asked !== !!asked) {
    setBefore({ stale, asked: !!asked });
    // What was worked on is let go when its check is done and no brush is on it.
    if (!asked && !stale) setBrush(null);
  }
  const here = brush && brush.part === part ? brush.brush : null;
  return { brush: usable ? here : null, worked: here?.worked ?? null };
}

/** An open wall with the drawn vertex that is nearest to it, and the wall there. */
function followable(finding: Finding, { geometry, walls }: DisplayMesh) {
  if (finding.code !== 'thin-wall' || !finding.where) return [];
  const [x, y, z] = finding.where.point;
  const positions = geometry.getAttribute('position');
  let [vertex, nearest] = [0, Infinity];
  for (let k = 0; k < positions.count; k++) {
    const away = Math.hypot(positions.getX(k) - x, positions.getY(k) - y, positions.getZ(k) - z);
    if (away < nearest) [vertex, nearest] = [k, away];
  }
  return [{ finding, vertex, wall: walls[vertex] ?? 0 }];
}
