import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, StepOf } from '../../app/client';
import { stepsOf } from '../../app/steps';
import type { FigureActs } from '../../figure/useFigure';
import {
  AnswerField,
  heldIn,
  TermsFields,
  useTerms,
  writtenOut,
  type Answer,
  type Held,
} from './TermsFields';
import { ChoiceField } from '../Fields';

/** Whose something is that was brought in, and under which terms. */
export function Credit({
  source,
  file,
  build,
  acts,
}: {
  source: string;
  file: string;
  build: BuildRecord;
  acts: FigureActs;
}) {
  const list = useTerms();
  const said = stepsOf(build, 'credit').find((credit) => credit.source === source);
  const [maker, setMaker] = useState(said?.maker ?? '');
  const [held, setHeld] = useState<Held>(() => heldIn(said));
  const save = () =>
    acts.addStep(`credited ${file}`, { kind: 'credit', source, file, maker, ...writtenOut(held) });
  if (!list) return null;
  return (
    <div className="fields">
      <TextField
        size="small"
        label="Who made it"
        value={maker}
        onChange={(event) => setMaker(event.target.value)}
      />
      <TermsFields held={held} change={setHeld} list={list} />
      <button className="ruled" disabled={acts.busy || !held.terms} onClick={save}>
        Write it down
      </button>
    </div>
  );
}

/** What the figure shows that others have a say in. */
export function Depict({ acts }: { acts: FigureActs }) {
  const list = useTerms();
  const [what, setWhat] = useState<StepOf<'depict'>['what']>('character');
  const [subject, setSubject] = useState('');
  const [consent, setConsent] = useState<Answer>('unanswered');
  const [held, setHeld] = useState<Held>(() => heldIn(undefined));
  const add = () => {
    acts.addStep(`depicts ${subject}`, { kind: 'depict', what, subject, consent, ...writtenOut(held) });
    setSubject('');
  };
  if (!list) return null;
  return (
    <div className="fields">
      <ChoiceField
        label="What the figure depicts"
        value={what}
        options={list.depicted as Record<typeof what, string>}
        change={setWhat}
      />
      <TextField
        size="small"
        label="Who or what that is"
        value={subject}
        onChange={(event) => setSubject(event.target.value)}
      />
      {what === 'person' && <AnswerField label="Do they consent?" value={consent} change={setConsent} />}
      <TermsFields held={held} change={setHeld} list={list} />
      <button className="ruled" disabled={acts.busy || !subject.trim()} onClick={add}>
        Write it down
      </button>
    </div>
  );
}

/** Whether it goes out for money, and under which terms. */
export function Offer({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  const list = useTerms();
  const [said] = stepsOf(build, 'offer');
  const set = (sold: boolean, terms: string | null) =>
    acts.addStep('how it is to go out', { kind: 'offer', sold, terms });
  const sold = said?.sold ?? false;
  const terms = said?.terms ?? null;
  if (!list) return null;
  return (
    <div className="fields">
      <ChoiceField
        label="Released for money?"
        value={said ? (sold ? 'sold' : 'free') : ''}
        options={{ free: 'free of charge', sold: 'for money' }}
        change={(to) => set(to === 'sold', terms)}
        disabled={acts.busy}
      />
      <ChoiceField
        label="Under which terms it goes out"
        value={said ? (terms ?? 'closed') : ''}
        disabled={acts.busy}
        options={[
          ['closed', 'all rights kept'],
          ...list.terms
            .filter(
              ({ id }) => !['own-work', 'private-use', 'prints-only', 'all-rights-reserved'].includes(id),
            )
            .map(({ id, name }) => [id, name] as const),
        ]}
        change={(to) => set(sold, to === 'closed' ? null : to)}
      />
    </div>
  );
}
