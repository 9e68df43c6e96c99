import { Link } from 'react-router';
import { useState } from 'react';

import type { BuildRecord, FigurePage, Material, PartRecord } from '../app/client';
import { stepsOf } from '../app/steps';
import { Coming, FilePicker, useBringIn } from '../app/bringIn';
import { bytes, count } from '../app/units';
import type { Box } from '../chart/overlay';
import type { HandlesAsked } from '../chart/handles';
import type { Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { NumberField, numberIn } from './Fields';
import { Making } from './Making';
import { Placed } from './Placed';
import { References } from './References';
import { ScanTools } from './ScanTools';
import { Terms } from './Terms';
import { Variants } from './Variants';

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  showBox: (box: Box | null) => void;
  showHandles: (handles: HandlesAsked | null) => void;
  /** Has a part drawn as the one that is worked on. */
  drawPart: (part: string) => void;
  materials: Material[];
  /** The part that is drawn. */
  part?: PartRecord | undefined;
}

/** Bring in: what the source is, whose, and what may be done with it. */
export function BringInPanel({
  page,
  build,
  acts,
  picking,
  showBox,
  showHandles,
  drawPart,
  materials,
  part = build.parts[0],
}: Props) {
  const facts = part?.facts;
  const material = materials.find(({ id }) => id === page.edition.material);
  const { coming, error, bringIn } = useBringIn();
  const now = page.sources.filter((source) => source.now);
  const before = page.sources.filter((source) => !source.now);
  const scanned = stepsOf(build, 'fuse-passes').length > 0;
  return (
    <>
      <h2>Where it came from</h2>
      {now.map((source) => (
        <dl className="facts" key={source.sha256}>
          <dt>file</dt>
          <dd>
            {source.file_name}, {bytes(source.bytes)}
          </dd>
          <dt>SHA-256</dt>
          <dd>{source.sha256}</dd>
          {facts && (
            <>
              <dt>{build.parts.length > 1 ? facts.part : 'holds'}</dt>
              <dd>
                {count(facts.triangles, 'triangle')}, {count(facts.vertices, 'vertex', 'vertices')},{' '}
                {count(facts.shells, 'shell')}, {facts.watertight ? 'closed' : 'not closed'}
              </dd>
            </>
          )}
        </dl>
      ))}
      <p>{build.steps[0]?.sentence.join('')}</p>
      <Terms key={page.id} build={build} acts={acts} />
      <details className="fold" open={scanned}>
        <summary>Cleaning up a scan</summary>
        <ScanTools {...{ build, part, acts, picking, showBox }} />
      </details>
      <References {...{ build, acts, picking }} />
      <Placed {...{ build, part, acts, picking, showHandles, drawPart }} />
      <Making number={page.id} {...{ build, acts, picking, part, material }} />
      <Variants {...{ page, acts }} />
      <h3>Fewer triangles</h3>
      <ThinOut acts={acts} />
      <h3>More of it</h3>
      <p style={{ margin: '10px 0' }}>
        <FilePicker
          says="Bring in a new sculpt"
          disabled={acts.busy || coming !== null}
          take={(file) => void bringIn(file, { figure: page.id, revision: page.revision })}
        />{' '}
        <Link to={`/bits?figure=${page.id}`}>The shelf of bits</Link> <Coming coming={coming} />
      </p>
      <p className="error" role="alert">
        {error}
      </p>
      <p className="soft">
        {page.variant && `It becomes the sculpt of ${page.variant} alone. `}Under a new sculpt the record is
        run again: size, remedies and supports stay, points are looked for on the new surface, and what no
        longer lands is told. Undo brings the sculpt from before back.
      </p>
      {before.length > 0 && (
        <p className="soft">Kept from before: {before.map((source) => source.file_name).join(', ')}.</p>
      )}
    </>
  );
}

function ThinOut({ acts }: { acts: FigureActs }) {
  const [deviation, setDeviation] = useState('0.02');
  const [triangles, setTriangles] = useState('100000');
  const busy = acts.busy || acts.stale;
  const wanted = numberIn(triangles);
  return (
    <div className="fields two">
      <NumberField label="Nothing moves more than, mm" text={deviation} change={setDeviation} />
      <button
        className="ruled"
        disabled={busy || numberIn(deviation) === null}
        onClick={() => acts.addStep('thinned out', { kind: 'simplify', deviation: numberIn(deviation) })}
      >
        Thin out to that
      </button>
      <NumberField label="Triangles, about" text={triangles} change={setTriangles} />
      <button
        className="ruled"
        disabled={busy || wanted === null || wanted < 4}
        onClick={() => acts.addStep('thinned out', { kind: 'simplify', triangles: Math.round(wanted ?? 4) })}
      >
        Thin out to these
      </button>
    </div>
  );
}
