import { Link } from 'react-router';

import type { FigurePage, JobView, PartRecord, Setup } from '../app/client';
import { JobLine } from '../app/JobLine';
import { LightSwitch } from '../app/LightSwitch';
import { count, mm } from '../app/units';
import { useValue, type Value } from '../app/value';

/** The head of a figure's sheet: where it is, what is being done, and what it is made for. */
export function Head({
  page,
  tall,
  setup,
  unchecked,
  checkAgain,
}: {
  page: FigurePage;
  /** Print mm; undefined before it is measured. */
  tall: number | undefined;
  setup: Setup | undefined;
  /** Why it is not being checked; null while it is, or was. */
  unchecked: string | null;
  checkAgain: () => void;
}) {
  return (
    <header className="head">
      <Link className="name" to="/">
        Ulvet
      </Link>
      <h1 style={{ font: 'inherit' }}>
        <Link to="/">Shelf</Link>, <b>{page.name}</b>
        {page.variant && `, ${page.variant}`}
      </h1>
      <span className="right">
        <JobLine job={page.job} />
        {unchecked && (
          <span className="error" role="alert">
            {unchecked}{' '}
            <button className="plain" onClick={checkAgain}>
              <u>Check again</u>
            </button>
          </span>
        )}
        <LightSwitch />
        <Link to={`/figures/${page.id}/editions?edition=${page.looked}`} title="Its editions (E)">
          <span className="soft">made for </span>
          <b>
            {page.editions.length > 1 && `${nameOf(page)}, `}
            {tall === undefined ? '…' : `${mm(tall)} mm`}
            {setup && ` ${setup.printer.process}`}
          </b>
          {page.editions.length > 1 && <span className="soft"> one of {page.editions.length}</span>}
        </Link>
      </span>
    </header>
  );
}

const nameOf = (page: FigurePage) => page.editions.find(({ id }) => id === page.looked)?.name ?? '';

/** Why a figure that has no build is not being checked either; null while it is. */
export function whyUnchecked(job: JobView | null): string | null {
  if (!job) return 'The figure was not checked yet.';
  if (job.state === 'failed') return job.error;
  return job.state === 'cancelled' ? 'The check was stopped; what is shown is from before.' : null;
}

/** The measures of the part that is drawn, under the chart. */
export function Calipers({
  facts,
  pointed,
  meant,
  stale,
  setup,
}: {
  facts: PartRecord['facts'];
  /** What the chart holds under the pointer. */
  pointed: Value<number | null>;
  /** What that is: a wall in figure mm, the number of one of these, or nothing to tell. */
  meant: 'wall' | 'nothing' | string[];
  stale: boolean;
  setup: Setup | undefined;
}) {
  return (
    <div className="calipers">
      {(['wide', 'deep', 'tall'] as const).map((name, k) => (
        <span key={name}>
          {name} <b>{mm(facts.size_mm[k] ?? 0)}</b>
        </span>
      ))}
      <span>mm</span>
      {meant !== 'nothing' && <There pointed={pointed} meant={meant} factor={facts.factor} />}
      <span className="end">
        {stale ? 'from before the change' : `${count(facts.triangles, 'triangle')}`}
        {setup && `, ${setup.name}`}
      </span>
    </div>
  );
}

/** What is under the pointer; the only thing that is drawn anew when the pointer moves. */
function There({
  pointed,
  meant,
  factor,
}: {
  pointed: Value<number | null>;
  meant: 'wall' | string[];
  factor: number;
}) {
  const value = useValue(pointed);
  const says = value === null ? undefined : meant === 'wall' ? mm(value * factor) : meant[Math.round(value)];
  return (
    <span>
      {says !== undefined && (
        <>
          {meant === 'wall' && 'wall '}under the pointer <b>{says}</b>
        </>
      )}
    </span>
  );
}
