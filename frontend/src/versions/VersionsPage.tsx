import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import {
  api,
  dataOf,
  lookedEdition,
  type Comparison,
  type FigurePage,
  type JobView,
  type VersionView,
} from '../app/client';
import { ended } from '../app/jobs';
import { LightSwitch } from '../app/LightSwitch';
import { MarkCounts } from '../app/Mark';
import { day, count, mm } from '../app/units';
import { Chart } from '../chart/Chart';
import { Compared } from './Compared';

/** The sheet of a figure's versions: what is frozen, and what became of it since. */
export default function VersionsPage() {
  const number = Number(useParams().number);
  const client = useQueryClient();
  const path = { number };
  const page = useQuery({
    queryKey: ['figure', number, lookedEdition()],
    queryFn: () => dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path } })),
  });
  const versions = useQuery({
    queryKey: ['versions', number],
    queryFn: () => dataOf<VersionView[]>(api.GET('/api/figures/{number}/versions', { params: { path } })),
  });
  const [says, setSays] = useState('');
  const [asked, setAsked] = useState<{ before: number; after: number | null } | null>(null);
  const freeze = useMutation({
    mutationFn: () =>
      dataOf<VersionView>(
        api.POST('/api/figures/{number}/versions', {
          params: { path, header: { 'If-Match': page.data?.revision ?? 0 } },
          body: { says },
        }),
      ),
    onSuccess: () => {
      setSays('');
      void client.invalidateQueries({ queryKey: ['versions', number] });
    },
  });
  const newest = versions.data?.[0]?.number;
  const pair = asked ?? (newest === undefined ? null : { before: newest, after: null });
  const key = page.data?.build?.key;
  const compared = useQuery({
    queryKey: ['comparison', number, pair, pair?.after === null ? key : null],
    queryFn: () => compareNow(number, pair?.before ?? 0, pair?.after ?? null),
    enabled: pair !== null && key !== undefined,
    staleTime: Infinity,
    retry: false,
  });

  if (page.isError) return <p className="empty error">{page.error.message}</p>;
  if (!page.data) return <p className="empty">Unrolling the sheet …</p>;
  const { build } = page.data;
  const name = (which: number | null) => (which === null ? 'now' : `version ${which}`);
  return (
    <div className="page">
      <header className="head">
        <Link className="name" to="/">
          Ulvet
        </Link>
        <h1 style={{ font: 'inherit' }}>
          <Link to="/">Shelf</Link>,{' '}
          <Link to={`/figures/${number}?edition=${lookedEdition()}`}>{page.data.name}</Link>, <b>versions</b>
        </h1>
        <span className="right">
          <LightSwitch />
        </span>
      </header>
      <main className="sheet">
        <div className="body">
          <aside className="notes" aria-label="Versions">
            <div className="scroll">
              <h2>{versions.data?.length ? 'What is frozen' : 'Nothing frozen yet'}</h2>
              {versions.data?.length === 0 && (
                <p className="why">
                  Freeze the figure when you print it or show it. Whatever you change later can then be set
                  against it: what is fixed, what is new, and where the surface moved.
                </p>
              )}
              <form
                className="freeze"
                onSubmit={(event) => {
                  event.preventDefault();
                  freeze.mutate();
                }}
              >
                <label>
                  <span className="soft">What this version is for</span>
                  <input
                    value={says}
                    maxLength={400}
                    placeholder="first proof, beak still thin"
                    onChange={(event) => setSays(event.target.value)}
                  />
                </label>
                <button className="ruled" disabled={!build || freeze.isPending}>
                  Freeze as version {(newest ?? 0) + 1}
                </button>
              </form>
              <ErrorLine says={freeze.error?.message} />
              <ErrorLine says={versions.error?.message} />
              <ul className="plain-list version-list">
                {versions.data?.map((version) => (
                  <li key={version.number} className={pair?.before === version.number ? 'touched' : ''}>
                    <button
                      className="plain"
                      aria-pressed={pair?.before === version.number}
                      onClick={() => setAsked({ before: version.number, after: null })}
                    >
                      <b>Version {version.number}</b> {version.says}
                    </button>
                    <span className="soft">
                      {version.size_mm && `${mm(version.size_mm[2])} mm, `}
                      {day(version.frozen)}
                    </span>
                    {version.editions.length + version.not_built.length > 1 && (
                      <span className="soft">
                        {version.editions.join(', ')}
                        {version.not_built.length > 0 && `; not built then: ${version.not_built.join(', ')}`}
                      </span>
                    )}
                    <MarkCounts marks={version.marks ?? undefined} />
                    {pair && version.number > pair.before && (
                      <button
                        className="plain"
                        aria-pressed={pair.after === version.number}
                        onClick={() => setAsked({ before: pair.before, after: version.number })}
                      >
                        <u>against version {pair.before}</u>
                      </button>
                    )}
                  </li>
                ))}
              </ul>
              {pair && (
                <>
                  <h2>
                    From {name(pair.before)} to {name(pair.after)}
                  </h2>
                  {compared.isFetching && <p className="soft">Setting them against each other …</p>}
                  <ErrorLine says={compared.error?.message} />
                  {compared.data && <Compared comparison={compared.data} />}
                </>
              )}
            </div>
          </aside>
          <section className="chart-side" aria-label="Where the surface moved">
            {compared.data && build ? (
              <MovedChart comparison={compared.data} build={build} />
            ) : (
              <div className="chart">
                <p className="empty soft">Where the surface moved is drawn here.</p>
              </div>
            )}
          </section>
        </div>
      </main>
    </div>
  );
}

function MovedChart({
  comparison,
  build,
}: {
  comparison: Comparison;
  build: NonNullable<FigurePage['build']>;
}) {
  const [chosen, choose] = useState(0);
  const moved = comparison.moved[Math.min(chosen, comparison.moved.length - 1)];
  const facts = comparison.facts_after.find((other) => other.part === moved?.part);
  const model = build.parts[0];
  if (!moved || !facts || !model) {
    return (
      <div className="chart">
        <p className="empty soft">No part is in both, so no surface can be set against another.</p>
      </div>
    );
  }
  const most = moved.greatest;
  const part = { ...model, facts, display: moved.display, soundings: null, tips: [], supports_display: null };
  const bands = [0.75, 0.5, 0.25, 0.02] as const;
  const said = (share: number) => mm(most * share);
  return (
    <>
      <Chart
        part={part}
        tints={
          most < 0.0005
            ? undefined
            : {
                title: 'moved, mm',
                levels: bands.map((share) => most * (1 - share)) as [number, number, number, number],
                rows: [`over ${said(0.75)}`, said(0.5), said(0.25), said(0.02), 'still'],
              }
        }
        findings={[]}
        chosen={null}
        choose={() => undefined}
        pointed={() => undefined}
      />
      <div className="calipers">
        {comparison.moved.length > 1 &&
          comparison.moved.map((other, k) => (
            <button
              key={other.part}
              className="plain"
              aria-pressed={other === moved}
              onClick={() => choose(k)}
            >
              {other.part}
            </button>
          ))}
        <span>
          {most < 0.0005 ? (
            'the surface did not move'
          ) : (
            <>
              moved at most <b>{mm(most)}</b>, on average <b>{mm(moved.mean)}</b> mm
            </>
          )}
        </span>
        <span className="end">{count(facts.triangles, 'triangle')}</span>
      </div>
    </>
  );
}

async function compareNow(number: number, before: number, after: number | null): Promise<Comparison> {
  const job = await dataOf<JobView>(
    api.POST('/api/figures/{number}/comparisons', {
      params: { path: { number }, query: after === null ? { before } : { before, after } },
    }),
  );
  const done = await ended(job);
  const name = done.made.comparison;
  if (typeof name !== 'string') throw new Error(done.error || 'The comparison was stopped.');
  return dataOf<Comparison>(api.GET('/api/comparisons/{name}', { params: { path: { name } } }));
}
