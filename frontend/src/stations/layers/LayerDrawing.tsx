import { useEffect, useState } from 'react';

import type { BuildRecord, Finding, PartRecord } from '../../app/client';
import { duration, mm } from '../../app/units';
import { useKeys } from '../../app/useKeys';
import { inPrint } from '../../chart/axes';

const WIDTH = 396;
const CURVE = 54;
/** All layers are played in so many pictures. */
const PICTURES = 120;
const A_PICTURE_MS = 90;
const MOST_MARKS = 8;

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
  const [playing, play] = useState(false);
  const last = Math.max((estimate?.layers ?? 1) - 1, 0);
  useEffect(() => {
    if (!playing) return;
    const each = Math.max(1, Math.round(last / PICTURES));
    const timer = setInterval(
      () =>
        setLayer((now) => {
          if (now >= last) play(false);
          return Math.min(last, now + each);
        }),
      A_PICTURE_MS,
    );
    return () => clearInterval(timer);
  }, [playing, last]);
  const marks = part ? marksOf(build, part) : [];
  const turn = (mark: { layer: number } | undefined) => mark && setLayer(mark.layer);
  useKeys({
    v: () => play(!playing),
    '<': () => turn(marks.findLast((mark) => mark.layer < layer)),
    '>': () => turn(marks.find((mark) => mark.layer > layer)),
  });
  if (!part?.layer_frame || !estimate) {
    return null;
  }
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
      <AreaCurve
        areas={part.areas}
        pull={part.pull ?? null}
        share={layer / Math.max(last, 1)}
        marks={marks.map((mark) => mark.layer / Math.max(last, 1))}
      />
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
      <p>
        <button className="plain" aria-pressed={playing} onClick={() => play(!playing)}>
          <kbd>V</kbd> <u>{playing ? 'stop' : 'play the layers'}</u>
        </button>
        {marks.length > 0 && (
          <span className="soft">
            {' '}
            <kbd>&lt;</kbd> <kbd>&gt;</kbd> to the layer before or after with something found
          </span>
        )}
      </p>
      {!finding && marks.length > 0 && (
        <ul className="plain-list" aria-label="Layers with something to see">
          {marks.slice(0, MOST_MARKS).map((mark) => (
            <li key={`${mark.layer} ${mark.title}`}>
              <button className="plain" onClick={() => setLayer(mark.layer)}>
                <u>layer {(mark.layer + 1).toLocaleString('en')}</u>
              </button>{' '}
              <span className="soft">{mark.title}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** Area over height, with the layer that is looked at and those that have something to see, as shares of it. */
function AreaCurve({
  areas,
  pull,
  share,
  marks,
}: {
  areas: number[];
  pull: number | null;
  share: number;
  marks: number[];
}) {
  const most = Math.max(...areas, 1e-6);
  const says = `most ${mm(most)} mm²${pull ? `, pulled off with ${(most * pull).toFixed(1)} N` : ''}`;
  const points = areas.map(
    (area, k) =>
      `${((k / Math.max(areas.length - 1, 1)) * WIDTH).toFixed(1)},${(CURVE - (area / most) * (CURVE - 14)).toFixed(1)}`,
  );
  return (
    <svg viewBox={`0 0 ${WIDTH} ${CURVE}`} width="100%" role="img" aria-label={`Area over height, ${says}`}>
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
        area, {says}
      </text>
      {marks.map((at, k) => (
        <path key={k} d={`M${at * WIDTH - 4} ${CURVE} h8 l-4 -7 z`} fill="var(--mark)" />
      ))}
    </svg>
  );
}

/** Layers at which something was found, from the plate up, each once. */
function marksOf(build: BuildRecord, part: PartRecord): { layer: number; title: string }[] {
  const layers = (part.estimate?.layers ?? 1) - 1;
  const found = build.findings.flatMap((one) => {
    const place = one.where;
    if (one.station !== 'layers' || one.part !== part.facts.part || !place || !part.layer_frame) return [];
    const { foot, layer } = part.layer_frame;
    const at = Math.floor((inPrint(part.facts, place.point)[2] - foot) / layer + 1e-6);
    return [{ layer: Math.min(layers, Math.max(0, at)), title: one.title }];
  });
  return found.sort((a, b) => a.layer - b.layer);
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
