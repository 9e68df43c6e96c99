import { useRef, useState } from 'react';
import { useSearchParams } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { turnLight } from '../app/light';
import { useKeys } from '../app/useKeys';
import { AskName } from '../shelf/AskName';
import { SheetHead } from '../shelf/SheetHead';
import styles from './bench.module.css';
import { useBench, type BenchActs } from './useBench';
import { ValueTable } from './ValueTable';

/** The bench: what one prints with, each thing with its values, their range and where they come from. */
export default function BenchPage() {
  const acts = useBench();
  const { bench } = acts;
  const [search, setSearch] = useSearchParams();
  const [naming, setNaming] = useState<'copy' | 'rename' | null>(null);
  const list = bench?.lists.find(({ place }) => place === search.get('list')) ?? bench?.lists[0];
  const thing = list?.things.find(({ id }) => id === search.get('thing')) ?? list?.things[0];
  const lookAt = (place: string, id: string) => setSearch({ list: place, thing: id }, { replace: true });
  const all = bench?.lists.flatMap(({ place, things }) => things.map(({ id }) => ({ place, id }))) ?? [];
  const at = all.findIndex(({ place, id }) => place === list?.place && id === thing?.id);
  const turn = (by: number) => {
    const next = all[at + by];
    if (next) lookAt(next.place, next.id);
  };
  useKeys({
    n: turnLight,
    j: () => turn(1),
    k: () => turn(-1),
    ArrowDown: () => turn(1),
    ArrowUp: () => turn(-1),
    c: () => setNaming('copy'),
    u: () => bench?.can_undo && acts.undo(),
    U: () => bench?.can_redo && acts.redo(),
    'ctrl+z': () => bench?.can_undo && acts.undo(),
  });
  if (acts.failed) return <p className="empty error">{acts.failed}</p>;
  if (!bench || !list || !thing) return <p className="empty">Unrolling the sheet …</p>;
  return (
    <div className="page">
      <SheetHead name="bench" />
      <main className="sheet">
        <div className={styles.sheet}>
          <nav className={styles.lists} aria-label="What is on the bench">
            {bench.lists.map(({ place, title, things }) => (
              <section key={place}>
                <h2>{title}</h2>
                <ul className="plain-list">
                  {things.map(({ id, name, retired }) => (
                    <li key={id}>
                      <button
                        className={`plain ${retired ? styles.retired : ''}`}
                        aria-current={place === list.place && id === thing.id}
                        onClick={() => lookAt(place, id)}
                      >
                        {name}
                        {retired && <span className="soft">, retired</span>}
                      </button>
                    </li>
                  ))}
                </ul>
              </section>
            ))}
          </nav>
          <section className={styles.thing} aria-label={thing.name}>
            <Bar acts={acts} />
            <ErrorLine says={acts.error} />
            <h1>{thing.name}</h1>
            <p className={styles.acts}>
              <button className="plain" onClick={() => setNaming('copy')}>
                <u>Another like it</u> <kbd>C</kbd>
              </button>
              {!thing.shipped && (
                <button className="plain" disabled={acts.busy} onClick={() => setNaming('rename')}>
                  <u>Rename it</u>
                </button>
              )}
              <button
                className="plain"
                disabled={acts.busy}
                onClick={() => acts.retire(list.place, thing.id, !thing.retired)}
              >
                <u>{thing.retired ? 'Offer it again' : 'Retire it'}</u>
              </button>
              <span className="soft">
                {thing.retired
                  ? 'It is offered no more; what used it keeps it.'
                  : thing.shipped
                    ? 'Ulvet comes with it. Change any value: it is yours then.'
                    : 'Your own.'}
              </span>
            </p>
            <ValueTable key={`${list.place} ${thing.id}`} place={list.place} thing={thing} acts={acts} />
          </section>
        </div>
      </main>
      {naming === 'rename' && (
        <AskName
          title={`Rename ${thing.name}`}
          label="Name"
          now={thing.name}
          longest={60}
          done={(name) => acts.setValue(list.place, thing.id, 'name', name)}
          close={() => setNaming(null)}
        />
      )}
      {naming === 'copy' && (
        <AskName
          title={`Another like ${thing.name}`}
          label="Name"
          now=""
          longest={60}
          done={(name) =>
            acts.copy(list.place, thing.id, name, (after) => {
              const made = after.lists
                .find(({ place }) => place === list.place)
                ?.things.find((other) => other.name === name);
              if (made) lookAt(list.place, made.id);
            })
          }
          close={() => setNaming(null)}
        />
      )}
    </div>
  );
}

/** What holds for the whole bench: undo, and in and out as a file. */
function Bar({ acts }: { acts: BenchActs }) {
  const file = useRef<HTMLInputElement>(null);
  const { bench } = acts;
  return (
    <p className={styles.bar}>
      <button className="plain" disabled={!bench?.can_undo || acts.busy} onClick={acts.undo}>
        <u>Undo</u> <kbd>U</kbd>
      </button>
      <button className="plain" disabled={!bench?.can_redo || acts.busy} onClick={acts.redo}>
        <u>Redo</u>
      </button>
      <span className="soft">{bench?.says && `last: ${bench.says}`}</span>
      <a href="/api/bench.json" download>
        Take it out as a file
      </a>
      <button className="plain" onClick={() => file.current?.click()}>
        <u>Bring one in</u>
      </button>
      <input
        ref={file}
        hidden
        type="file"
        accept=".json,application/json"
        aria-label="Bench file"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) void acts.bringIn(chosen);
          event.target.value = '';
        }}
      />
    </p>
  );
}
