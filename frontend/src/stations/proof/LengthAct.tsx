import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type PartRecord, type ProofView } from '../../app/client';
import { useKeys } from '../../app/useKeys';
import type { Pick as PickedPlace } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { useProofs } from './useProofs';

const OVER = {
  outside: 'over the outside',
  inside: 'inside a hole or slot',
  step: 'from a face to one that looks the same way',
} as const;
type Over = keyof typeof OVER;
type Length = ProofView['lengths_to_take'][number];
/** An end of a length: picked now, or kept of a proof before. */
type End = Pick<PickedPlace, 'point'> & { normal?: PickedPlace['normal'] | null };
type Vector = [number, number, number];

/** Enters a length by calipers beside the one that is drawn. */
export function LengthAct({
  page,
  part,
  picking,
  leaveAct,
}: Pick<Sheet, 'page' | 'part' | 'picking' | 'leaveAct'>) {
  const proofs = useProofs(page);
  const { chosen } = proofs;
  const [ends, setEnds] = useState<[End, End] | null>(null);
  const [again, setAgain] = useState<Length | null>(null);
  const [name, setName] = useState('');
  const [measured, setMeasured] = useState('');
  const [asking, setAsking] = useState(false);
  const [trouble, setTrouble] = useState('');
  const [over, setOver] = useState<Over>('outside');
  const printed =
    chosen?.proof.parts.findIndex((one) => one.part === part?.facts.part && one.figure === page.id) ?? -1;
  const drawn = ends && part ? drawnLength(ends, part) : null;
  const read = numberIn(measured);
  const inches = drawn && read ? Math.abs((read * 25.4) / drawn.length - 1) < 0.1 : false;
  const can = !!chosen && !!part && !!ends && !!drawn && read !== null && printed >= 0 && !proofs.busy;
  const keep = () => {
    if (!can) return;
    const length = {
      part: printed,
      name: name.trim(),
      begin: endOf(ends[0], part.source),
      end: endOf(ends[1], part.source),
      drawn: drawn.length,
      measured: read,
      over,
      direction: drawn.direction,
    };
    proofs.enter(
      chosen,
      `length ${name.trim() || 'measured'}`,
      { lengths: [...chosen.proof.came.lengths, length] },
      leaveAct,
    );
  };
  useKeys({ a: keep });
  const takeAgain = (length: Length) => {
    const drawnNow = part ? drawnLength([length.begin, length.end], part) : null;
    if (!drawnNow) return;
    setAgain(length);
    setEnds([length.begin, length.end]);
    setName(length.name ?? '');
    setOver(length.over ?? 'outside');
  };
  const mine = (chosen?.lengths_to_take ?? []).filter((length) => length.part === printed);
  const pick = () =>
    picking.ask({
      says: 'Pick both ends of what the calipers held',
      count: 2,
      then: ([begin, end]) => {
        setAgain(null);
        if (begin && end) setEnds([begin, end]);
      },
    });
  const askPrinter = async () => {
    if (!chosen || !part || !ends) return;
    setAsking(true);
    setTrouble('');
    try {
      const read = await dataOf<{ mm: number }>(
        api.POST('/api/proofs/{proof}/print/lengths', {
          params: { path: { proof: chosen.number } },
          body: {
            part: printed,
            begin: endOf(ends[0], part.source),
            end: endOf(ends[1], part.source),
            over,
          },
        }),
      );
      setMeasured(read.mm.toFixed(2));
    } catch (error) {
      setTrouble((error as Error).message);
    }
    setAsking(false);
  };
  if (!chosen) return <p className="soft">Begin a proof first.</p>;
  return (
    <>
      <h3>Proof {chosen.number}</h3>
      <ErrorLine says={proofs.error || trouble} />
      <p>
        <button className="ruled" disabled={printed < 0} onClick={picking.asked ? picking.leave : pick}>
          {picking.asked ? 'Leave it' : 'Pick both ends on the figure'}
        </button>{' '}
        {drawn && <b>drawn {drawn.length.toFixed(2)} mm</b>}
      </p>
      {mine.length > 0 && (
        <p>
          <span className="soft">measured in the proof before: </span>
          {mine.map((length) => (
            <button
              key={length.name}
              className="plain"
              aria-pressed={length === again}
              onClick={() => takeAgain(length)}
            >
              <u>{length.name}</u>{' '}
              <span className="soft">
                {length.measured.toFixed(2)} for {length.drawn.toFixed(2)} mm{' '}
              </span>
            </button>
          ))}
        </p>
      )}
      <div className="fields two">
        <TextField
          size="small"
          label="Name of the length"
          value={name}
          slotProps={{ htmlInput: { maxLength: 120 } }}
          onChange={(event) => setName(event.target.value)}
        />
        <NumberField label="Measured, mm" text={measured} change={setMeasured} />
        {chosen.proof.came.printer && ends && (
          <button className="plain" disabled={asking} onClick={() => void askPrinter()}>
            <u>have the printer measure it</u>
          </button>
        )}
      </div>
      <div className="fields">
        <ChoiceField label="How the calipers held it" value={over} options={OVER} change={setOver} />
      </div>
      {inches && (
        <p className="error" role="alert">
          That reads like inches: calipers are read in mm here, about {drawn?.length.toFixed(1)} of them.
        </p>
      )}
      <div className="do-it">
        <button className="ruled" disabled={!can || inches} onClick={keep}>
          Keep this length
        </button>
      </div>
    </>
  );
}

/** How long a length is drawn, print mm, and which way it runs in the printer. */
function drawnLength([begin, end]: [End, End], { facts }: PartRecord) {
  const away = end.point.map((value, k) => value - (begin.point[k] ?? 0)) as Vector;
  const far = Math.hypot(...away);
  if (far === 0) return null;
  const turned = facts.print_axes.map(
    (row) => row.reduce((sum, value, k) => sum + value * (away[k] ?? 0), 0) / far,
  );
  return { length: far * facts.factor, direction: turned as Vector };
}

const endOf = ({ point, normal }: End, source: string) => ({ point, normal: normal ?? null, source });
