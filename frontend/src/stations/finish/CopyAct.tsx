import { useRef, useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { PutBack } from '../../app/PutBack';
import { sendReference, type PaintedView } from '../../app/client';
import { day, duration } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { anyNumberIn, ChoiceField } from '../Fields';
import styles from './finish.module.css';
import { changePlan, planOf } from './plan';
import { useCopies, type CopyActs } from './useCopies';

/** Ticks off the work on a copy, with the minutes it took, and keeps what to do otherwise. */
export function CopyAct({ build, acts, busy, page }: Pick<Sheet, 'build' | 'acts' | 'busy' | 'page'>) {
  const copies = useCopies({ page });
  const [looked, look] = useState<number | null>(null);
  const last = copies.copies.at(-1);
  const copy = copies.copies.find(({ number }) => number === looked) ?? last;
  const plan = planOf(build);
  const meant = plan?.schemes?.find(({ name }) => name === plan.scheme) ?? plan?.schemes?.[0];
  const done = copy?.painted.done;
  const differs = !!done && !!meant && JSON.stringify(done.roles) !== JSON.stringify(meant.roles);
  return (
    <>
      <ErrorLine says={copies.error} />
      <div className="fields two">
        {copies.copies.length > 1 && copy && (
          <ChoiceField
            label="Which copy"
            value={String(copy.number)}
            options={copies.copies.map((one) => [String(one.number), calledSo(one)] as const)}
            change={(number) => look(Number(number))}
          />
        )}
        <button className="ruled" disabled={busy || copies.busy} onClick={copies.begin}>
          Begin {copy ? 'another' : 'a'} copy
        </button>
      </div>
      <PutBack back={copies.back} what="the copy that was begun by mistake" />
      {!copy && (
        <p className="soft">
          It takes the order of work as it is planned now; what you tick and how long it took stands beside
          what was told.
        </p>
      )}
      {copy && (
        <>
          <p>
            <b>{calledSo(copy)}</b>
            {copy.took_min > 0 &&
              `: ${duration(copy.took_min * 60)} for what was told as ${duration(copy.told_min * 60)}`}
          </p>
          <Rows key={copy.number} copy={copy} copies={copies} />
          <Ending key={`${copy.number} ${copy.painted.otherwise}`} copy={copy} copies={copies} />
          {differs && done && meant && (
            <p>
              Its stacks are not those of the plan now.{' '}
              <button
                className="plain"
                disabled={busy}
                onClick={() =>
                  changePlan({ build, acts }, `as copy ${copy.number} was painted`, {
                    schemes: (plan?.schemes ?? []).map((one) =>
                      one === meant ? { ...one, roles: done.roles ?? [] } : one,
                    ),
                  })
                }
              >
                <u>make its stacks the plan</u>
              </button>{' '}
              <button
                className="plain"
                disabled={copies.busy}
                onClick={() => copies.enter(copy, 'painted as the plan has it now', { done: meant })}
              >
                <u>it was painted as the plan has it now</u>
              </button>
            </p>
          )}
        </>
      )}
    </>
  );
}

function calledSo({ number, painted }: PaintedView): string {
  return `copy ${number}, ${painted.ended ? `painted ${day(painted.ended)}` : `begun ${day(painted.began)}`}`;
}

function Rows({ copy, copies }: { copy: PaintedView; copies: CopyActs }) {
  const rows = copy.painted.rows;
  const tick = (at: number, minutes: number | null) =>
    copies.enter(copy, rows[at]?.what ?? 'ticked', {
      rows: rows.map((row, k) => (k === at ? { ...row, minutes } : row)),
    });
  return (
    <ul className={styles.ticks} aria-label="Work on this copy">
      {rows.map((row, k) => (
        <li key={k}>
          <label>
            <input
              type="checkbox"
              disabled={copies.busy}
              checked={row.minutes != null}
              onChange={({ target }) => tick(k, target.checked ? 0 : null)}
            />{' '}
            {row.what} <span className="soft">told {row.told_min.toFixed(0)} min</span>
          </label>
          <input
            type="text"
            inputMode="decimal"
            size={4}
            key={`${copy.revision} ${k}`}
            aria-label={`Minutes that “${row.what}” took`}
            defaultValue={row.minutes ? String(row.minutes) : ''}
            placeholder="min"
            onBlur={({ target }) => {
              const minutes = anyNumberIn(target.value);
              if (minutes !== null && minutes >= 0 && minutes !== row.minutes) tick(k, minutes);
            }}
          />
        </li>
      ))}
    </ul>
  );
}

function Ending({ copy, copies }: { copy: PaintedView; copies: CopyActs }) {
  const [otherwise, setOtherwise] = useState(copy.painted.otherwise ?? '');
  const [trouble, setTrouble] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const photos = copy.painted.photos ?? [];
  const bring = (chosen: File | undefined) => {
    if (!chosen) return;
    setTrouble('');
    sendReference(chosen).then(
      ({ shown }) => copies.enter(copy, 'a photo', { photos: [...photos, shown] }),
      (error: Error) => setTrouble(error.message),
    );
  };
  return (
    <>
      <ErrorLine says={trouble} />
      <p>
        <label>
          what to do otherwise
          <br />
          <textarea
            rows={2}
            className={styles.otherwise}
            maxLength={4000}
            value={otherwise}
            onChange={({ target }) => setOtherwise(target.value)}
            onBlur={() =>
              otherwise !== copy.painted.otherwise && copies.enter(copy, 'otherwise next time', { otherwise })
            }
          />
        </label>
      </p>
      {photos.map((photo, k) => (
        <img
          key={photo}
          className={styles.photo}
          src={`/api/blobs/${photo}`}
          alt={`Copy ${copy.number} as it came out, ${k + 1}`}
        />
      ))}
      <p className={styles.schemes}>
        <button className="plain" onClick={() => file.current?.click()}>
          <u>a photo of it</u>
        </button>
        <input
          ref={file}
          type="file"
          hidden
          aria-label="A photo of the copy"
          accept="image/png,image/jpeg"
          onChange={(event) => bring(event.target.files?.[0])}
        />
        {copy.painted.ended ? (
          <span className="soft">done; what it took of paints is taken off the stock</span>
        ) : (
          <button
            className="ruled"
            disabled={copies.busy}
            onClick={() => copies.enter(copy, 'painted', { ended: new Date().toISOString() })}
          >
            This copy is done
          </button>
        )}
        <button className="plain" disabled={!copy.can_undo || copies.busy} onClick={() => copies.undo(copy)}>
          <u>undo the last entry</u>
        </button>
        <button className="plain" disabled={!copy.can_redo || copies.busy} onClick={() => copies.redo(copy)}>
          <u>make it again</u>
        </button>
        <button className="plain" disabled={copies.busy} onClick={() => copies.drop(copy)}>
          <u>begun by mistake</u>
        </button>
      </p>
    </>
  );
}
