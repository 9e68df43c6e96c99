import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, sendEvidence, dataOf, type StepOf, type TermsList } from '../../app/client';
import { ChoiceField } from '../Fields';

export type Answer = 'yes' | 'no' | 'unanswered';

export const QUESTIONS = [
  ['share', 'May it be shared?'],
  ['sell', 'May it be sold?'],
  ['alter', 'May it be altered?'],
  ['name_maker', 'Must the maker be named?'],
] as const;
type Answers = Record<(typeof QUESTIONS)[number][0], Answer>;
const OPEN: Answers = {
  share: 'unanswered',
  sell: 'unanswered',
  alter: 'unanswered',
  name_maker: 'unanswered',
};
export const SAID: Record<Answer, string> = { yes: 'yes', no: 'no', unanswered: 'not known' };

/** Terms as they are being said. */
export interface Held {
  terms: string;
  own: Answers;
  ownName: string;
  alike: boolean;
  proof: string;
  link: string;
  file: { sha256: string; file_name: string } | null;
  dated: string;
}

/** The terms that ship with Ulvet. */
export function useTerms() {
  return useQuery({
    queryKey: ['terms'],
    queryFn: () => dataOf<TermsList>(api.GET('/api/terms')),
    staleTime: Infinity,
  }).data;
}

/** A question that is answered yes or no, or not yet. */
export function AnswerField({
  label,
  value,
  change,
}: {
  label: string;
  value: Answer;
  change: (answer: Answer) => void;
}) {
  return (
    <ChoiceField
      label={label}
      value={value}
      options={(['yes', 'no', 'unanswered'] as const).map((answer) => [answer, SAID[answer]] as const)}
      change={change}
    />
  );
}

/** Under which terms something is, and what shows it. */
export function TermsFields({
  held,
  change,
  list,
}: {
  held: Held;
  change: (held: Held) => void;
  list: TermsList;
}) {
  const chosen = list.terms.find((terms) => terms.id === held.terms);
  const [error, setError] = useState('');
  const input = useRef<HTMLInputElement>(null);
  const take = (file: File) =>
    sendEvidence(file).then(
      (kept) => {
        setError('');
        change({ ...held, file: kept });
      },
      (problem: Error) => setError(problem.message),
    );
  return (
    <>
      <ChoiceField
        label="Under which terms"
        value={held.terms}
        options={[
          ...list.terms.map(({ id, name }) => [id, name] as const),
          ['own', 'other terms, written out here'],
        ]}
        change={(terms) => change({ ...held, terms })}
        helperText={chosen?.line}
      />
      {held.terms === 'own' && (
        <>
          <TextField
            size="small"
            label="What they are called"
            value={held.ownName}
            onChange={(event) => change({ ...held, ownName: event.target.value })}
          />
          {QUESTIONS.map(([key, asks]) => (
            <AnswerField
              key={key}
              label={asks}
              value={held.own[key] ?? 'unanswered'}
              change={(answer) => change({ ...held, own: { ...held.own, [key]: answer } })}
            />
          ))}
          <label>
            <input
              type="checkbox"
              checked={held.alike}
              onChange={(event) => change({ ...held, alike: event.target.checked })}
            />{' '}
            what is made of it has to go out under the same terms
          </label>
        </>
      )}
      {held.terms && held.terms !== 'own-work' && (
        <>
          <TextField
            size="small"
            label="Evidence, in words"
            multiline
            maxRows={4}
            value={held.proof}
            onChange={(event) => change({ ...held, proof: event.target.value })}
          />
          <TextField
            size="small"
            label="Evidence, as a link (kept as text)"
            value={held.link}
            onChange={(event) => change({ ...held, link: event.target.value })}
          />
          <TextField
            size="small"
            type="date"
            label="Date of the evidence"
            value={held.dated}
            slotProps={{ inputLabel: { shrink: true } }}
            onChange={(event) => change({ ...held, dated: event.target.value })}
          />
          <span>
            <button className="plain" onClick={() => input.current?.click()}>
              <u>{held.file ? 'another file as evidence' : 'keep a file as evidence'}</u>
            </button>{' '}
            {held.file && (
              <a href={`/api/evidence/${held.file.sha256}`} download={held.file.file_name}>
                {held.file.file_name}
              </a>
            )}
          </span>
          <input
            ref={input}
            type="file"
            hidden
            aria-label="A file as evidence"
            accept=".png,.jpg,.jpeg,.pdf,.txt"
            onChange={(event) => {
              const file = event.target.files?.[0];
              event.target.value = '';
              if (file) void take(file);
            }}
          />
          <ErrorLine says={error} />
        </>
      )}
    </>
  );
}

/** What a credit says of terms. */
export function heldIn(said: StepOf<'credit'> | undefined): Held {
  const own = said?.own;
  return {
    terms: own ? 'own' : (said?.terms ?? ''),
    own: {
      ...OPEN,
      ...Object.fromEntries(QUESTIONS.flatMap(([key]) => (own?.[key] ? [[key, own[key]]] : []))),
    },
    ownName: own?.name ?? '',
    alike: own?.alike ?? false,
    proof: said?.proof ?? '',
    link: said?.proof_link ?? '',
    file: said?.proof_file ? { sha256: said.proof_file, file_name: said.proof_file_name } : null,
    dated: said?.dated ?? '',
  };
}

/** Terms as a step keeps them. */
export function writtenOut(held: Held) {
  const own = held.terms === 'own';
  return {
    terms: own || !held.terms ? null : held.terms,
    own: own
      ? { id: 'own', line: '', name: held.ownName || 'terms of its maker', alike: held.alike, ...held.own }
      : null,
    proof: held.proof,
    proof_link: held.link,
    proof_file: held.file?.sha256 ?? null,
    proof_file_name: held.file?.file_name ?? '',
    dated: held.dated,
  };
}
