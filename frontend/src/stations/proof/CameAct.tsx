import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import type { Came, Outcome, ProofView } from '../../app/client';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { NumberField, numberIn } from '../Fields';
import styles from './proof.module.css';
import { useProofs } from './useProofs';
import { OUTCOMES } from './words';

const SIDES = ['front', 'back', 'left', 'right', 'top', 'underside'] as const;

/** Says how a proof came out: its copies, hours, material, scars, and what was done by hand. */
export function CameAct({ page, leaveAct }: Pick<Sheet, 'page' | 'leaveAct'>) {
  const proofs = useProofs(page);
  const { chosen } = proofs;
  if (!chosen) return <p className="soft">Begin a proof first.</p>;
  return (
    <CameOf key={`${chosen.number} ${chosen.revision}`} of={chosen} proofs={proofs} leaveAct={leaveAct} />
  );
}

function CameOf({
  of,
  proofs,
  leaveAct,
}: {
  of: ProofView;
  proofs: ReturnType<typeof useProofs>;
  leaveAct: () => void;
}) {
  const { came, parts } = of.proof;
  const [outcomes, setOutcomes] = useState(() => came.copies.map(({ outcome }) => outcome ?? null));
  const [hours, setHours] = useState(() => (came.seconds ? (came.seconds / 3600).toFixed(2) : ''));
  const [ml, setMl] = useState(() => came.ml?.toString() ?? '');
  const [cleanup, setCleanup] = useState(() => came.cleanup_min?.toString() ?? '');
  const [scars, setScars] = useState(
    () => new Map<string, string>(came.scars.map(({ side, count }) => [side, String(count)])),
  );
  const [hands, setHands] = useState(came.hands);
  const [remarks, setRemarks] = useState(came.remarks);
  const said = (text: string) => (text.trim() === '' ? null : numberIn(text, true));
  const next: Partial<Came> = {
    copies: came.copies.map((copy, k) => ({ ...copy, outcome: outcomes[k] ?? null })),
    ended: came.ended ?? (outcomes.some(Boolean) ? new Date().toISOString() : null),
    seconds: inSeconds(said(hours)),
    ml: said(ml) || null,
    cleanup_min: said(cleanup),
    scars: SIDES.flatMap((side) => {
      const count = said(scars.get(side) ?? '');
      return count ? [{ side, count: Math.round(count) }] : [];
    }),
    hands,
    remarks,
  };
  const enter = () => !proofs.busy && proofs.enter(of, 'how it came out', next, leaveAct);
  useKeys({ a: enter });
  return (
    <>
      <h3>Proof {of.number}</h3>
      <ErrorLine says={proofs.error} />
      {came.copies.map((copy, k) => (
        <fieldset key={k} className={styles.copy}>
          <legend>
            {parts[copy.part]?.called}, copy {k + 1}
          </legend>
          {(Object.keys(OUTCOMES) as Outcome[]).map((outcome) => (
            <label key={outcome}>
              <input
                type="radio"
                name={`copy ${k}`}
                checked={outcomes[k] === outcome}
                onChange={() => setOutcomes(outcomes.map((other, n) => (n === k ? outcome : other)))}
              />{' '}
              {OUTCOMES[outcome]}
            </label>
          ))}
        </fieldset>
      ))}
      <div className="fields three">
        <NumberField label="Hours it took" text={hours} change={setHours} optional />
        <NumberField label="Material, ml" text={ml} change={setMl} optional />
        <NumberField label="Cleaning up, min" text={cleanup} change={setCleanup} optional zero />
      </div>
      <fieldset className={styles.copy}>
        <legend>Scars that show, by side</legend>
        <div className="fields three">
          {SIDES.map((side) => (
            <NumberField
              key={side}
              label={side}
              text={scars.get(side) ?? ''}
              change={(text) => setScars(new Map(scars).set(side, text))}
              optional
              zero
            />
          ))}
        </div>
      </fieldset>
      <div className="fields">
        <TextField
          size="small"
          label="Done otherwise by hand than usual"
          value={hands}
          slotProps={{ htmlInput: { maxLength: 400 } }}
          onChange={(event) => setHands(event.target.value)}
        />
        <TextField
          size="small"
          label="Remarks"
          value={remarks}
          multiline
          minRows={2}
          slotProps={{ htmlInput: { maxLength: 4000 } }}
          onChange={(event) => setRemarks(event.target.value)}
        />
      </div>
      <div className="do-it">
        <button className="ruled" disabled={proofs.busy} onClick={enter}>
          Keep it so
        </button>
      </div>
    </>
  );
}

const inSeconds = (hours: number | null): number | null => (hours ? hours * 3600 : null);
