import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import {
  api,
  sendProof,
  told,
  type BuildRecord,
  type Step,
  type StepOf,
  type TermsList,
} from '../app/client';
import { stepsOf } from '../app/steps';
import type { FigureActs } from '../figure/useFigure';
import { Kept } from './Kept';

type Answer = 'yes' | 'no' | 'unanswered';

const QUESTIONS = [
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
const SAID: Record<Answer, string> = { yes: 'yes', no: 'no', unanswered: 'not known' };

interface Held {
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
    queryFn: () => told<TermsList>(api.GET('/api/terms')),
    staleTime: Infinity,
  }).data;
}

/** Whose everything in the figure is, what it depicts, how it is to go out, and what the whole inherits. */
export function Terms({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  const list = useTerms();
  if (!list) return <p className="soft">Looking up the terms …</p>;
  const brought = build.steps.flatMap(({ step }) => broughtBy(step));
  return (
    <>
      <h3>What may be done with it</h3>
      <table className="ruled-table">
        <tbody>
          {QUESTIONS.map(([key, asks]) => {
            const because = build.inherited[key];
            return (
              <tr key={key}>
                <th scope="row">{asks}</th>
                <td>
                  <b>{SAID[because.answer]}</b>
                </td>
                <td className="soft">{because.of.length ? `because of ${because.of.join(', ')}` : ''}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {build.inherited.alike.map(([name, terms]) => (
        <p key={name}>
          {name} may go on only under {terms.name}.
        </p>
      ))}
      <p className="soft">{list.no_advice}</p>
      {brought.map((one) => (
        <Credit key={one.source} {...one} build={build} acts={acts} list={list} />
      ))}
      <h3>What it depicts</h3>
      <Kept
        build={build}
        acts={acts}
        kind="depict"
        label="Depicted"
        none="Nothing others have a say in, as far as was said."
      />
      <Depict acts={acts} list={list} />
      <Offer build={build} acts={acts} list={list} />
    </>
  );
}

/** What a step takes from outside, by its hash and its file's name; nothing where it is switched off. */
function broughtBy(step: Step): { source: string; file: string }[] {
  if (!step.on) return [];
  if (step.kind === 'bring-in' || step.kind === 'add-bit') return [{ source: step.source, file: step.name }];
  return step.kind === 'stamp' && step.picture ? [{ source: step.picture, file: step.name }] : [];
}

function Credit({
  source,
  file,
  build,
  acts,
  list,
}: {
  source: string;
  file: string;
  build: BuildRecord;
  acts: FigureActs;
  list: TermsList;
}) {
  const said = stepsOf(build, 'credit').find((credit) => credit.source === source);
  const [maker, setMaker] = useState(said?.maker ?? '');
  const [held, setHeld] = useState<Held>(() => heldIn(said));
  const save = () =>
    acts.addStep(`credited ${file}`, { kind: 'credit', source, file, maker, ...writtenOut(held) });
  return (
    <details open={!said}>
      <summary>
        {file}:{' '}
        {said ? (list.terms.find((terms) => terms.id === said.terms)?.name ?? 'own terms') : 'whose is it?'}
      </summary>
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
    </details>
  );
}

function AnswerField({
  label,
  value,
  change,
}: {
  label: string;
  value: Answer;
  change: (answer: Answer) => void;
}) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(event) => change(event.target.value as Answer)}
    >
      {(['yes', 'no', 'unanswered'] as const).map((answer) => (
        <MenuItem key={answer} value={answer}>
          {SAID[answer]}
        </MenuItem>
      ))}
    </TextField>
  );
}

function TermsFields({ held, change, list }: { held: Held; change: (held: Held) => void; list: TermsList }) {
  const chosen = list.terms.find((terms) => terms.id === held.terms);
  const [error, setError] = useState('');
  const input = useRef<HTMLInputElement>(null);
  const take = (file: File) =>
    sendProof(file).then(
      (kept) => {
        setError('');
        change({ ...held, file: kept });
      },
      (problem: Error) => setError(problem.message),
    );
  return (
    <>
      <TextField
        select
        size="small"
        label="Under which terms"
        value={held.terms}
        onChange={(event) => change({ ...held, terms: event.target.value })}
        helperText={chosen?.line}
      >
        {list.terms.map((terms) => (
          <MenuItem key={terms.id} value={terms.id}>
            {terms.name}
          </MenuItem>
        ))}
        <MenuItem value="own">other terms, written out here</MenuItem>
      </TextField>
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
            label="Proof, in words"
            multiline
            maxRows={4}
            value={held.proof}
            onChange={(event) => change({ ...held, proof: event.target.value })}
          />
          <TextField
            size="small"
            label="Proof, as a link (kept as text)"
            value={held.link}
            onChange={(event) => change({ ...held, link: event.target.value })}
          />
          <TextField
            size="small"
            type="date"
            label="Dated"
            value={held.dated}
            slotProps={{ inputLabel: { shrink: true } }}
            onChange={(event) => change({ ...held, dated: event.target.value })}
          />
          <span>
            <button className="plain" onClick={() => input.current?.click()}>
              <u>{held.file ? 'another file as proof' : 'keep a file as proof'}</u>
            </button>{' '}
            {held.file && (
              <a href={`/api/proofs/${held.file.sha256}`} download={held.file.file_name}>
                {held.file.file_name}
              </a>
            )}
          </span>
          <input
            ref={input}
            type="file"
            hidden
            aria-label="A file as proof"
            accept=".png,.jpg,.jpeg,.pdf,.txt"
            onChange={(event) => {
              const file = event.target.files?.[0];
              event.target.value = '';
              if (file) void take(file);
            }}
          />
          {error && (
            <p className="error" role="alert">
              {error}
            </p>
          )}
        </>
      )}
    </>
  );
}

function Depict({ acts, list }: { acts: FigureActs; list: TermsList }) {
  const [what, setWhat] = useState<StepOf<'depict'>['what']>('character');
  const [subject, setSubject] = useState('');
  const [consent, setConsent] = useState<Answer>('unanswered');
  const [held, setHeld] = useState<Held>(() => heldIn(undefined));
  const add = () => {
    acts.addStep(`depicts ${subject}`, { kind: 'depict', what, subject, consent, ...writtenOut(held) });
    setSubject('');
  };
  return (
    <details>
      <summary>Say what it depicts</summary>
      <div className="fields">
        <TextField
          select
          size="small"
          label="It shows"
          value={what}
          onChange={(event) => setWhat(event.target.value as typeof what)}
        >
          {Object.entries(list.depicted).map(([key, name]) => (
            <MenuItem key={key} value={key}>
              {name}
            </MenuItem>
          ))}
        </TextField>
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
    </details>
  );
}

function Offer({ build, acts, list }: { build: BuildRecord; acts: FigureActs; list: TermsList }) {
  const [said] = stepsOf(build, 'offer');
  const set = (sold: boolean, terms: string | null) =>
    acts.addStep('how it is to go out', { kind: 'offer', sold, terms });
  const sold = said?.sold ?? false;
  const terms = said?.terms ?? null;
  return (
    <>
      <h3>How it is to go out</h3>
      <div className="fields">
        <TextField
          select
          size="small"
          label="For money?"
          value={said ? (sold ? 'sold' : 'free') : ''}
          disabled={acts.busy}
          onChange={(event) => set(event.target.value === 'sold', terms)}
        >
          <MenuItem value="free">free of charge</MenuItem>
          <MenuItem value="sold">for money</MenuItem>
        </TextField>
        <TextField
          select
          size="small"
          label="Under which terms"
          value={said ? (terms ?? 'closed') : ''}
          disabled={acts.busy}
          onChange={(event) => set(sold, event.target.value === 'closed' ? null : event.target.value)}
        >
          <MenuItem value="closed">all rights kept</MenuItem>
          {list.terms
            .filter(
              ({ id }) => !['own-work', 'private-use', 'prints-only', 'all-rights-reserved'].includes(id),
            )
            .map((other) => (
              <MenuItem key={other.id} value={other.id}>
                {other.name}
              </MenuItem>
            ))}
        </TextField>
      </div>
    </>
  );
}

function heldIn(said: StepOf<'credit'> | undefined): Held {
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

function writtenOut(held: Held) {
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
