import { useState } from 'react';

import type { BuildRecord, Finding, PartRecord } from '../../app/client';
import { duration, mm } from '../../app/units';
import { inPrint } from '../../chart/axes';

const WIDTH = 396;
const CURVE = 54;

interface Props {
  build: BuildRecord;
  /** The part whose layers are shown; that of the finding, else the first, when left out. */
  part?: PartRecord | undefined;
  /** A finding to begin at; the layer with the largest area otherwise. */
  finding?: Finding;
  large: boolean;
}

/** One layer as the printer sees it, and the area of all layers to find one's way by. */
export function LayerDrawing({ build, part: asked, finding, large }: Props) {
  const found = build.parts.find(({ facts }) => facts.part === finding?.part);
  const part = found ?? asked ?? build.parts[0];
  const number = part ? build.parts.indexOf(part) : 0;
  const estimate = part?.estimate;
  const [layer, setLayer] = useState(() => startAt(part, finding));
  if (!part?.layer_frame || !estimate) {
    return null;
  }
  const last = estimate.layers - 1;
  const { left, front, foot, wide, deep, layer: thick } = part.layer_frame;
  const height = large ? 330 : 168;
  const rings = (finding?.places ?? [])
    .map(({ point }) => inPrint(part.facts, point))
    .filter(([, , z]) => Math.abs((z - foot) / thick - layer) < 8);
  const area =
    part.areas[Math.min(part.areas.length - 1, Math.floor((layer / estimate.layers) * part.areas.length))] ??
    0;
  return (
    <div>
      <div className="drawing" style={{ height, display: 'grid', placeItems: 'center' }}>
        <div
          style={{
            position: 'relative',
            height: height - 10,
            aspectRatio: `${wide} / ${deep}`,
            maxWidth: '100%',
          }}
        >
          <img
            src={`/api/builds/${build.key}/parts/${number}/layers/${layer}.png`}
            alt={`Layer ${layer + 1} from above, the figure’s front at the foot`}
            style={{ width: '100%', height: '100%' }}
          />
          {rings.map(([x, y], k) => (
            <span
              key={k}
              className="layer-ring"
              style={{ left: `${(100 * (x - left)) / wide}%`, bottom: `${(100 * (y - front)) / deep}%` }}
            />
          ))}
        </div>
      </div>
      <AreaCurve areas={part.areas} share={layer / Math.max(last, 1)} />
      <input
        type="range"
        min={0}
        max={last}
        value={layer}
        aria-label="Layer"
        style={{ width: '100%', accentColor: 'var(--ink)', margin: 0 }}
        onChange={(event) => setLayer(Number(event.target.value))}
      />
      <p>
        layer <b>{(layer + 1).toLocaleString('en')}</b> of {estimate.layers.toLocaleString('en')},{' '}
        {mm((layer + 0.5) * thick)} mm up, about {mm(area)} mm², reached after{' '}
        {duration((estimate.seconds * layer) / estimate.layers)}
      </p>
    </div>
  );
}

function AreaCurve({ areas, share }: { areas: number[]; share: number }) {
  const most = Math.max(...areas, 1e-6);
  const points = areas.map(
    (area, k) =>
      `${((k / Math.max(areas.length - 1, 1)) * WIDTH).toFixed(1)},${(CURVE - (area / most) * (CURVE - 14)).toFixed(1)}`,
  );
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${CURVE}`}
      width="100%"
      role="img"
      aria-label={`Area over height, most ${mm(most)} mm²`}
    >
      <polygon
        points={`0,${CURVE} ${points.join(' ')} ${WIDTH},${CURVE}`}
        fill="var(--tint)"
        stroke="var(--shoal)"
      />
      <line
        x1={share * WIDTH}
        x2={share * WIDTH}
        y1={0}
        y2={CURVE}
        stroke="var(--mark)"
        strokeDasharray="3 2"
      />
      <text x={WIDTH} y={10} textAnchor="end" fontSize={12} fill="var(--soft)">
        area, most {mm(most)} mm²
      </text>
    </svg>
  );
}

function startAt(part: PartRecord | undefined, finding?: Finding): number {
  const layers = part?.estimate?.layers ?? 1;
  if (!part) return 0;
  if (!finding)
    return Math.floor(
      (part.areas.indexOf(Math.max(...part.areas)) / Math.max(part.areas.length, 1)) * layers,
    );
  if (!part.layer_frame || !finding.where) return 0;
  const height = inPrint(part.facts, finding.where.point)[2] - part.layer_frame.foot;
  return Math.min(layers - 1, Math.max(0, Math.round(height / part.layer_frame.layer)));
}
