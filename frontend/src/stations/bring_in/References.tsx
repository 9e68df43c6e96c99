import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { sendReference, type BuildRecord, type StepOf } from '../../app/client';
import { stepsOf } from '../../app/steps';
import { FilePicker } from '../../app/bringIn';
import { lengthOn, type Reference } from '../../chart/references';
import type { Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { NumberField, numberIn, ChoiceField } from '../Fields';

type Side = Reference['seen_from'];
const SIDES: Side[] = ['front', 'back', 'left', 'right'];

interface Props {
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
}

/** Pictures to work from, kept with the figure. */
export function References({ build, acts, picking }: Props) {
  const [error, setError] = useState('');
  const kept = stepsOf(build, 'refer-to');
  const factor = build.parts[0]?.facts.factor ?? 1;
  const busy = acts.busy || acts.stale;
  const take = async (file: File) => {
    setError('');
    try {
      const { shown, ratio } = await sendReference(file);
      // As tall as the figure, until its scale is set.
      const wide = build.size_mm[2] / factor / ratio;
      acts.addStep(`keeps ${file.name} to work from`, {
        kind: 'refer-to',
        name: file.name.slice(0, 80),
        shown,
        ratio,
        wide,
      });
    } catch (failure) {
      setError(failure instanceof Error ? failure.message : 'The picture could not be sent: try again.');
    }
  };
  return (
    <>
      <p>
        <FilePicker
          says="Keep a picture behind the figure"
          label="A picture to work from"
          accept=".png,.jpg,.jpeg"
          disabled={busy}
          take={(file) => void take(file)}
        />
      </p>
      <ErrorLine says={error} />
      {kept.map((picture) => (
        <OneReference key={`${picture.id} ${picture.shown}`} {...{ picture, factor, busy, acts, picking }} />
      ))}
      {kept.length > 0 && (
        <p className="soft">
          If somebody else made a picture and the figure follows it closely, say so under what it depicts.
        </p>
      )}
    </>
  );
}

function OneReference({
  picture,
  factor,
  busy,
  acts,
  picking,
}: {
  picture: StepOf<'refer-to'>;
  factor: number;
  busy: boolean;
  acts: FigureActs;
  picking: Picking;
}) {
  const { id, name } = picture;
  const [known, setKnown] = useState('');
  const [error, setError] = useState('');
  const length = numberIn(known);
  const scale = () =>
    picking.ask({
      says: 'Press at one end of the length on the picture, let go at the other',
      outlined: (outline) => {
        const drawn = lengthOn(picture, outline);
        if (!drawn || length === null)
          return setError(
            'It is looked at too much from its side, or nothing was drawn: turn it and try again.',
          );
        setError('');
        const grow = length / factor / drawn;
        // The place on the ground stays; what is drawn grows with the picture.
        acts.setFields(`scale of ${name}`, picture, {
          wide: picture.wide * grow,
          across: picture.across * grow,
          up: picture.up * grow,
        });
      },
    });
  return (
    <div className="fields">
      <h3>{name}</h3>
      <div className="fields two">
        <ChoiceField
          label="Seen from the"
          value={picture.seen_from}
          disabled={busy}
          options={SIDES.map((side) => [side, side] as const)}
          change={(to) => acts.setFields(`turned ${name}`, picture, { seen_from: to })}
        />
        <NumberField optional label="A length known on it, mm" text={known} change={setKnown} />
      </div>
      <button className="ruled" disabled={busy || length === null} onClick={scale}>
        Set its scale by that length
      </button>
      <ErrorLine says={error} />
      <button className="plain" disabled={busy} onClick={() => acts.removeStep(id)}>
        <u>take it out</u>
      </button>
    </div>
  );
}
