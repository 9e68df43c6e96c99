import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';

import type { EditionView } from '../app/client';
import { JobLine } from '../app/JobLine';
import { turnLight } from '../app/light';
import { MarkCounts } from '../app/Mark';
import { count, duration, mm, money, roundLength } from '../app/units';
import { useKeys } from '../app/useKeys';
import { useFigure, type FigureActs } from '../figure/useFigure';
import { AskName } from '../shelf/AskName';
import { Ruler } from '../shelf/Ruler';
import { SheetHead } from '../shelf/SheetHead';
import styles from './editions.module.css';

/** Pixels the tallest edition is drawn. */
const TALL = 260;
const LEAST_PIXELS = 6;

/** The editions of a figure beside each other at true relative size, each with what is found and what it takes. */
export default function EditionsPage() {
  const number = Number(useParams().number);
  const [search, setSearch] = useSearchParams();
  const asked = search.get('edition') ?? '';
  const navigate = useNavigate();
  const acts = useFigure(number, asked);
  const page = acts.page.data;
  const [naming, setNaming] = useState<'rename' | 'add' | null>(null);
  const lookAt = (edition: string) => setSearch({ edition }, { replace: true });
  const looked = page?.editions.find(({ id }) => id === page.looked);
  const place = page?.editions.findIndex(({ id }) => id === page.looked) ?? 0;
  const turn = (by: number) => {
    const next = page?.editions[place + by];
    if (next) lookAt(next.id);
  };
  const added = { done: lookAt };
  const removable = (page?.editions.length ?? 0) > 1;
  const does = {
    open: () => void navigate(`/figures/${number}?edition=${page?.looked ?? ''}`),
    add: () => setNaming('add'),
    draft: () => !acts.stale && acts.addDraft(added),
    smallest: () => !acts.stale && acts.addSmallest(added),
    rename: () => setNaming('rename'),
    remove: () => looked && removable && acts.removeEdition(looked.id, added),
    checkAll: acts.checkAll,
  };
  useKeys({
    n: turnLight,
    ArrowRight: () => turn(1),
    ArrowLeft: () => turn(-1),
    Enter: does.open,
    c: does.add,
    d: does.draft,
    s: does.smallest,
    r: does.rename,
    Delete: does.remove,
    e: does.checkAll,
    u: () => page?.can_undo && acts.undo(),
    U: () => page?.can_redo && acts.redo(),
    'ctrl+z': () => page?.can_undo && acts.undo(),
  });

  if (acts.page.isError) return <p className="empty error">{acts.page.error.message}</p>;
  if (!page || !looked) return <p className="empty">Unrolling the sheet …</p>;
  const tallest = Math.max(...page.editions.map(({ size_mm }) => size_mm?.[2] ?? 0));
  const scale = tallest > 0 ? TALL / tallest : 1;
  const unbuilt = page.editions.filter(({ built }) => !built).length;
  return (
    <div className="page">
      <SheetHead name="editions" by={{ name: page.name, to: `/figures/${number}?edition=${page.looked}` }}>
        <JobLine job={page.job} />
      </SheetHead>
      <main className="sheet">
        <div className={styles.sheet}>
          <div className={styles.acts}>
            <button className="plain" disabled={acts.busy} onClick={does.add}>
              <u>Another like {looked.name}</u> <kbd>C</kbd>
            </button>
            <button className="plain" disabled={acts.busy || acts.stale} onClick={does.draft}>
              <u>A draft of it, smaller and coarser</u> <kbd>D</kbd>
            </button>
            <button className="plain" disabled={acts.busy || acts.stale} onClick={does.smallest}>
              <u>The smallest that prints</u> <kbd>S</kbd>
            </button>
            {unbuilt > 0 && (
              <button className="plain" onClick={does.checkAll}>
                <u>Check all</u> <kbd>E</kbd>{' '}
                <span className="soft">{count(unbuilt, 'edition')} not checked yet</span>
              </button>
            )}
            <span className={styles.history}>
              <button className="plain" disabled={!page.can_undo || acts.busy} onClick={acts.undo}>
                <u>Undo</u> <kbd>U</kbd>
              </button>
              <button className="plain" disabled={!page.can_redo || acts.busy} onClick={acts.redo}>
                <u>Redo</u>
              </button>
            </span>
          </div>
          {(acts.error || acts.told) && (
            <p className={acts.error ? 'error' : ''} role={acts.error ? 'alert' : 'status'}>
              {acts.error || acts.told}
            </p>
          )}
          <div className={styles.row}>
            {tallest > 0 && <Ruler scale={scale} length={tallest} step={roundLength(tallest / 4)} />}
            {page.editions.map((edition) => (
              <Standing
                key={edition.id}
                {...{ edition, scale, number, lookAt }}
                here={edition.id === page.looked}
                before={page.editions[page.editions.indexOf(edition) - 1]}
              />
            ))}
          </div>
          <Chosen {...{ looked, number, acts, place, does, removable }} last={page.editions.length - 1} />
        </div>
      </main>
      {naming && (
        <AskName
          title={naming === 'add' ? `Another edition like ${looked.name}` : `Rename ${looked.name}`}
          label="Name of the edition"
          now={naming === 'add' ? '' : looked.name}
          longest={60}
          done={(name) =>
            naming === 'add'
              ? acts.addEdition({ name, sized_by: looked.sized_by, made: looked.made }, added)
              : acts.changeEdition(looked.id, { name, sized_by: looked.sized_by, made: looked.made })
          }
          close={() => setNaming(null)}
        />
      )}
    </div>
  );
}

/** One edition as it stands beside the others. */
function Standing({
  edition,
  before,
  scale,
  here,
  lookAt,
}: {
  edition: EditionView;
  /** The one it stands beside. */
  before: EditionView | undefined;
  scale: number;
  here: boolean;
  lookAt: (edition: string) => void;
}) {
  const button = useRef<HTMLButtonElement>(null);
  const { size_mm: size, picture, marks } = edition;
  useEffect(() => {
    if (here) button.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [here]);
  return (
    <button
      ref={button}
      className={`plain ${styles.edition} ${here ? styles.here : ''}`}
      aria-pressed={here}
      onClick={() => lookAt(edition.id)}
    >
      {picture && size ? (
        <img src={`/api/blobs/${picture}`} alt="" height={Math.max(LEAST_PIXELS, size[2] * scale)} />
      ) : (
        <span className={`soft ${styles.unbuilt}`}>not checked yet</span>
      )}
      <span className={styles.who}>
        <b>{edition.name}</b>
        <span>
          {size ? `${mm(size[2])} mm` : 'size not known yet'} {marks && <MarkCounts marks={marks} />}
        </span>
        <span className="soft">{edition.material}</span>
        {edition.seconds !== null && (
          <span className="soft">
            {duration(edition.seconds)}, {edition.ml?.toFixed(1)} ml, {money(edition.money ?? 0)}
          </span>
        )}
        <span className="soft">{edition.proofed}</span>
        {edition.retired && <span className={styles.retired}>its setting is retired</span>}
        {before && (
          <span className="soft">
            {edition.unlike.length
              ? `unlike ${before.name} in ${edition.unlike.join(' and ')}`
              : `as ${before.name}`}
          </span>
        )}
      </span>
    </button>
  );
}

/** What the edition that is looked at is made for, and what can be done with it. */
function Chosen({
  looked,
  number,
  acts,
  place,
  last,
  does,
  removable,
}: {
  looked: EditionView;
  number: number;
  acts: FigureActs;
  place: number;
  last: number;
  does: { open: () => void; rename: () => void; remove: () => unknown };
  removable: boolean;
}) {
  const { made } = looked;
  const others = acts.page.data?.editions ?? [];
  return (
    <section className={styles.chosen} aria-label={looked.name}>
      <h2>{looked.name}</h2>
      <dl className="facts">
        <dt>size</dt>
        <dd>
          {made.height ? `${mm(made.height)} mm tall` : `${made.factor ?? 1} times its source`}
          {looked.sized_by && `, meant as ${looked.sized_by}`}
        </dd>
        <dt>setting</dt>
        <dd>
          {looked.setting}
          {Object.keys(made.part_settings ?? {}).length > 0 &&
            `; ${Object.keys(made.part_settings ?? {}).join(', ')} in settings of their own`}
        </dd>
        <dt>use</dt>
        <dd>{made.use}</dd>
        <dt>form</dt>
        <dd>{looked.form || 'as it is drawn'}</dd>
        {made.variant && (
          <>
            <dt>variant</dt>
            <dd>{made.variant}</dd>
          </>
        )}
      </dl>
      <p className={styles.chosenActs}>
        <button className="ruled" onClick={does.open}>
          Open its sheet <kbd>Enter</kbd>
        </button>
        <Link to={`/figures/${number}/size?edition=${looked.id}`}>Change size or setting</Link>
        <button className="plain" onClick={does.rename}>
          <u>Rename</u> <kbd>R</kbd>
        </button>
        <button
          className="plain"
          disabled={place === 0 || acts.busy}
          onClick={() => acts.moveEdition(looked.id, others[place - 1]?.id ?? null)}
        >
          <u>Stand it earlier</u>
        </button>
        <button
          className="plain"
          disabled={place === last || acts.busy}
          onClick={() => acts.moveEdition(looked.id, others[place + 2]?.id ?? null)}
        >
          <u>Stand it later</u>
        </button>
        <button className="plain" disabled={!removable || acts.busy} onClick={does.remove}>
          <u>Take it out</u> <kbd>Del</kbd>
        </button>
      </p>
    </section>
  );
}
