import TextField from '@mui/material/TextField';
import { useRef, useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { sendReference, type Cause, type Pin } from '../../app/client';
import { useKeys } from '../../app/useKeys';
import { anchor, type Pick as PickedPlace } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField } from '../Fields';
import { useProofs } from './useProofs';
import { CAUSES, WHENS } from './words';

/** Pins what went wrong on the figure: where, when, and what it was. */
export function PinAct({
  page,
  part,
  picking,
  leaveAct,
}: Pick<Sheet, 'page' | 'part' | 'picking' | 'leaveAct'>) {
  const proofs = useProofs(page);
  const { chosen } = proofs;
  const [at, setAt] = useState<PickedPlace | null>(null);
  const [what, setWhat] = useState('');
  const [when, setWhen] = useState<Pin['when']>('supports-off');
  const [cause, setCause] = useState<Cause>('thin-part');
  const [photos, setPhotos] = useState<{ hash: string; name: string }[]>([]);
  const [trouble, setTrouble] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const printed =
    chosen?.proof.parts.findIndex((one) => one.part === part?.facts.part && one.figure === page.id) ?? -1;
  const pick = () =>
    picking.ask({ says: 'Pick where it went wrong', count: 1, then: ([one]) => setAt(one ?? null) });
  const can = !!chosen && !!part && !!at && printed >= 0 && !proofs.busy;
  const keep = () => {
    if (!can) return;
    const pins = chosen.proof.came.pins;
    const id = 1 + Math.max(0, ...pins.map((pin) => pin.id));
    const pin: Pin = {
      id,
      part: printed,
      at: anchor(at, part.source),
      what: what.trim(),
      when,
      cause,
      photos: photos.map(({ hash }) => hash),
      decision: null,
      redesigned_in: null,
      minutes: 0,
    };
    proofs.enter(chosen, `pinned ${what.trim() || CAUSES[cause]}`, { pins: [...pins, pin] }, leaveAct);
  };
  useKeys({ a: keep });
  const bring = (chosenFile: File | undefined) => {
    if (!chosenFile) return;
    setTrouble('');
    sendReference(chosenFile).then(
      ({ shown, file_name }) => setPhotos((before) => [...before, { hash: shown, name: file_name }]),
      (error: Error) => setTrouble(error.message),
    );
  };
  if (!chosen) return <p className="soft">Begin a proof first.</p>;
  return (
    <>
      <h3>Proof {chosen.number}</h3>
      <ErrorLine says={proofs.error || trouble} />
      {printed < 0 && <p className="soft">The part that is drawn was not printed in this proof.</p>}
      <p>
        <button className="ruled" disabled={printed < 0} onClick={picking.asked ? picking.leave : pick}>
          {picking.asked ? 'Leave it' : at ? 'Pick another place' : 'Pick the place on the figure'}
        </button>{' '}
        {at && <span className="soft">a place is picked</span>}
      </p>
      <div className="fields">
        <TextField
          size="small"
          label="What it was, in a word or two"
          value={what}
          slotProps={{ htmlInput: { maxLength: 120 } }}
          onChange={(event) => setWhat(event.target.value)}
        />
      </div>
      <div className="fields two">
        <ChoiceField label="When it was seen" value={when} options={WHENS} change={setWhen} />
        <ChoiceField label="What went wrong" value={cause} options={CAUSES} change={setCause} />
      </div>
      <p>
        <button className="plain" onClick={() => file.current?.click()}>
          <u>{photos.length ? 'another photo' : 'a photo of it'}</u>
        </button>{' '}
        <span className="soft">
          {photos.map(({ name }) => name).join(', ') ||
            'PNG or JPEG; where and by what it was taken is not kept'}
        </span>
        <input
          ref={file}
          type="file"
          hidden
          aria-label="A photo of it"
          accept="image/png,image/jpeg"
          onChange={(event) => bring(event.target.files?.[0])}
        />
      </p>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={keep}>
          Pin it
        </button>
      </div>
    </>
  );
}
