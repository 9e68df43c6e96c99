import { useState } from 'react';
import { Link } from 'react-router';

import type { Edition, FigurePage, Setup, StepSentence } from '../app/client';
import { mm } from '../app/units';

interface Props {
  page: FigurePage;
  steps: StepSentence[];
  height: number | undefined;
  setup: Setup | undefined;
  editStep: (step: number, field: string, value: number) => void;
  switchStep: (step: number, on: boolean) => void;
  /** Has a sentence hold in some editions alone, by their ids; in all where there are none. */
  holdIn: (step: StepSentence['step'], editions: string[]) => void;
  moveStep: (step: number, before: number | null) => void;
  setEdition: (edition: Edition) => void;
  undo: () => void;
  redo: () => void;
  busy: boolean;
}

/** The recipe as numbered sentences, whose numbers can be edited in place. */
export function Record({
  page,
  steps,
  height,
  setup,
  editStep,
  switchStep,
  holdIn,
  moveStep,
  setEdition,
  undo,
  redo,
  busy,
}: Props) {
  const [first, ...rest] = steps;
  const named = new Map(page.editions.map(({ id, name }) => [id, name]));
  const only = ({ step }: StepSentence) =>
    [
      ...(page.differing.includes(step.id) ? [page.variant] : []),
      ...(page.holds_in[step.id] ?? []).map((id) => named.get(id) ?? 'an edition that is gone'),
    ].join(', ');
  return (
    <section className="record" aria-label="Record">
      <div>
        <h2>Record</h2>
        <div className="soft" style={{ fontSize: 12.5 }}>
          revision {page.revision}
        </div>
        <Link to={`/figures/${page.id}/versions?edition=${page.looked}`}>versions</Link>,{' '}
        <a
          href={`/api/figures/${page.id}/recipe.json?edition=${page.looked}`}
          download
          title="The recipe as a file"
        >
          recipe
        </a>
        <div style={{ display: 'flex', gap: 8, marginTop: 8 }}>
          <button
            className="plain"
            disabled={!page.can_undo || busy}
            onClick={undo}
            title="Take the last change back (U)"
          >
            <u>Undo</u>
          </button>
          <button
            className="plain"
            disabled={!page.can_redo || busy}
            onClick={redo}
            title="Make it again (Shift U)"
          >
            <u>Redo</u>
          </button>
        </div>
      </div>
      {!first && <p className="soft">Its sentences stand here once the figure is measured.</p>}
      <ol hidden={!first}>
        {first && <Said number={1} said={first} edit={editStep} only={only(first)} out="" />}
        <li>
          <span className="n">2.</span>
          Stands{' '}
          {height === undefined ? (
            '…'
          ) : (
            <EditableNumber
              value={height}
              unit="mm"
              label="Height"
              save={(value) => setEdition({ ...page.edition, height: value, factor: null })}
            />
          )}{' '}
          mm{setup && `, in ${setup.material.name.toLowerCase()} on ${setup.printer.name}`}.
          {page.edition.form.mirrored && ' Its files are mirrored; here it is shown as it is drawn.'}
        </li>
        {rest.map((said, k) => (
          <Said
            key={said.step.id}
            number={k + 3}
            said={said}
            edit={editStep}
            only={only(said)}
            out={page.left_out[said.step.id] ?? ''}
            touched={k === rest.length - 1}
          >
            {!page.left_out[said.step.id] && (
              <StepActs
                steps={steps}
                place={k + 1}
                number={k + 3}
                busy={busy}
                switchStep={switchStep}
                page={page}
                holdIn={holdIn}
                moveStep={moveStep}
              />
            )}
          </Said>
        ))}
      </ol>
    </section>
  );
}

function Said({
  number,
  said: { step, sentence },
  edit,
  only,
  out,
  touched = false,
  children,
}: {
  number: number;
  said: StepSentence;
  edit: Props['editStep'];
  /** The variant or editions whose sentence this is alone; empty for a sentence of the figure. */
  only: string;
  /** Why the edition that is looked at leaves it out; empty where it does not. */
  out: string;
  touched?: boolean;
  children?: React.ReactNode;
}) {
  return (
    <li className={`${touched ? 'touched' : ''} ${step.on ? '' : 'off'}`}>
      <span className="n">{number}.</span>
      {out && <span className="soft">left out, {out}: </span>}
      {only && <b className="only">{only}: </b>}
      {sentence.map((piece, k) =>
        typeof piece === 'string' ? (
          piece
        ) : (
          <span key={k}>
            <EditableNumber
              value={piece.value}
              unit={piece.unit}
              label={piece.field}
              save={(value) => edit(step.id, piece.field, value)}
            />{' '}
            {piece.unit}
          </span>
        ),
      )}
      {children}
    </li>
  );
}

/** What can be done with a sentence as a whole; shown where the pointer or the focus is. */
function StepActs({
  steps,
  place,
  number,
  busy,
  page,
  switchStep,
  holdIn,
  moveStep,
}: Pick<Props, 'steps' | 'busy' | 'page' | 'switchStep' | 'holdIn' | 'moveStep'> & {
  place: number;
  number: number;
}) {
  const said = steps[place];
  if (!said) return null;
  const { step } = said;
  const [before, after] = [steps[place - 1], steps[place + 1]];
  const mayPass = (other: StepSentence | undefined): other is StepSentence =>
    other !== undefined && other.phase === said.phase && other.rank === said.rank;
  return (
    <span className="step-acts">
      <button
        className="plain"
        disabled={busy}
        aria-label={`Switch sentence ${number} ${step.on ? 'off' : 'on'}`}
        onClick={() => switchStep(step.id, !step.on)}
      >
        <u>{step.on ? 'off' : 'on'}</u>
      </button>
      {page.editions.length > 1 && (
        <button
          className="plain"
          disabled={busy}
          aria-label={`Have sentence ${number} hold ${page.holds_in[step.id] ? 'in all editions' : 'in this edition alone'}`}
          onClick={() => holdIn(step, page.holds_in[step.id] ? [] : [page.looked])}
        >
          <u>{page.holds_in[step.id] ? 'in all editions' : 'only here'}</u>
        </button>
      )}
      {mayPass(before) && (
        <button
          className="plain"
          disabled={busy}
          aria-label={`Sentence ${number} earlier`}
          onClick={() => moveStep(step.id, before.step.id)}
        >
          <u>earlier</u>
        </button>
      )}
      {mayPass(after) && (
        <button
          className="plain"
          disabled={busy}
          aria-label={`Sentence ${number} later`}
          onClick={() => moveStep(step.id, steps[place + 2]?.step.id ?? null)}
        >
          <u>later</u>
        </button>
      )}
    </span>
  );
}

/** A number in a sentence: click or Enter to edit, Enter to keep, Escape to leave as it was. */
export function EditableNumber({
  value,
  unit,
  label,
  save,
}: {
  value: number;
  unit: string;
  label: string;
  save: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  if (text === null) {
    return (
      <button
        className="plain number"
        aria-label={`${label}, ${mm(value)} ${unit}; edit`}
        onClick={() => setText(mm(value))}
      >
        {mm(value)}
      </button>
    );
  }
  const number = Number(text.replace(',', '.'));
  const usable = text.trim() !== '' && Number.isFinite(number) && number >= 0;
  const finish = () => {
    setText(null);
    if (usable && mm(number) !== mm(value)) save(number);
  };
  return (
    <input
      className="number-edit"
      autoFocus
      inputMode="decimal"
      aria-label={`${label} in ${unit}`}
      aria-invalid={!usable}
      value={text}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter' && usable) finish();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}
