import { useState } from 'react';

import type { BuildRecord, FigurePage, PartRecord } from '../../app/client';
import { Coming, FilePicker, useBringIn } from '../../app/bringIn';
import { bytes, count } from '../../app/units';
import { DoIt } from '../../figure/DoIt';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';

/** What the figure is made from. */
export function Sources({
  page,
  build,
  part,
}: {
  page: FigurePage;
  build: BuildRecord;
  part: PartRecord | undefined;
}) {
  const facts = part?.facts;
  return (
    <>
      <h2>Where it came from</h2>
      <p>{build.steps[0]?.sentence.join('')}</p>
      {facts && (
        <p className="soft">
          {build.parts.length > 1 && `${facts.part}: `}
          {count(facts.triangles, 'triangle')}, {count(facts.vertices, 'vertex', 'vertices')},{' '}
          {count(facts.shells, 'shell')}, {facts.watertight ? 'closed' : 'not closed'}
        </p>
      )}
      {page.sources.length === 0 && <p className="soft">It began with a form, not with a file.</p>}
    </>
  );
}

/** The files the figure is, and was, made from. */
export function Files({ page }: { page: FigurePage }) {
  const before = page.sources.filter((source) => !source.now);
  return (
    <>
      {page.sources
        .filter((source) => source.now)
        .map((source) => (
          <dl className="facts" key={source.sha256}>
            <dt>file</dt>
            <dd>
              {source.file_name}, {bytes(source.bytes)}
            </dd>
            <dt>SHA-256</dt>
            <dd>{source.sha256}</dd>
          </dl>
        ))}
      {before.length > 0 && (
        <p className="soft">Kept from before: {before.map((source) => source.file_name).join(', ')}.</p>
      )}
    </>
  );
}

/** A new sculpt in place of the one the figure is made from. */
export function NewSculpt({ page, acts }: { page: FigurePage; acts: FigureActs }) {
  const { coming, error, bringIn } = useBringIn();
  return (
    <>
      <p className="why">
        {page.variant && `It becomes the sculpt of ${page.variant} alone. `}Under a new sculpt the record is
        run again: size, remedies and supports stay, points are looked for on the new surface, and what no
        longer lands is told. Undo brings the sculpt from before back.
      </p>
      <FilePicker
        says="Bring in a new sculpt"
        disabled={acts.busy || coming !== null}
        take={(file) => void bringIn(file, { figure: page.id, revision: page.revision })}
      />{' '}
      <Coming coming={coming} />
      <p className="error" role="alert">
        {error}
      </p>
    </>
  );
}

/** Fewer triangles, by how far the surface may move or by how many are left. */
export function ThinOut({ acts }: { acts: FigureActs }) {
  const [by, setBy] = useState<'deviation' | 'triangles'>('deviation');
  const [deviation, setDeviation] = useState('0.02');
  const [triangles, setTriangles] = useState('100000');
  const far = numberIn(deviation);
  const wanted = numberIn(triangles);
  const fields =
    by === 'deviation'
      ? far !== null && { deviation: far }
      : wanted !== null && wanted >= LEAST_TRIANGLES && { triangles: Math.round(wanted) };
  return (
    <div className="fields">
      <ChoiceField
        label="Thin out until"
        value={by}
        options={{ deviation: 'the surface would move too far', triangles: 'so many triangles are left' }}
        change={setBy}
      />
      {by === 'deviation' ? (
        <NumberField label="Nothing moves more than, mm" text={deviation} change={setDeviation} />
      ) : (
        <NumberField label="Triangles left, about" text={triangles} change={setTriangles} />
      )}
      <DoIt
        acts={acts}
        label="Thin it out"
        change={fields ? { does: 'add', says: 'thinned out', step: { kind: 'simplify', ...fields } } : null}
      />
    </div>
  );
}

/** Fewer enclose nothing. */
const LEAST_TRIANGLES = 4;
