import { useState } from 'react';

import type { Edition, FigurePage, Material, Printer, SaidStep } from '../app/client';
import { mm } from '../app/units';

interface Props {
  page: FigurePage;
  steps: SaidStep[];
  height: number | undefined;
  printer: Printer | undefined;
  material: Material | undefined;
  editStep: (step: number, field: string, value: number) => void;
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
  printer,
  material,
  editStep,
  setEdition,
  undo,
  redo,
  busy,
}: Props) {
  const [first, ...rest] = steps;
  return (
    <section className="record" aria-label="Record">
      <div>
        <h2>Record</h2>
        <div className="soft" style={{ fontSize: 12.5 }}>
          revision {page.revision}
        </div>
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
        {first && <Said number={1} step={first} place={0} edit={editStep} />}
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
          mm{printer && material && `, in ${material.name.toLowerCase()} on ${printer.name}`}.
        </li>
        {rest.map((step, k) => (
          <Said
            key={k}
            number={k + 3}
            step={step}
            place={k + 1}
            edit={editStep}
            touched={k === rest.length - 1}
          />
        ))}
      </ol>
    </section>
  );
}

function Said({
  number,
  step,
  place,
  edit,
  touched = false,
}: {
  number: number;
  step: SaidStep;
  place: number;
  edit: Props['editStep'];
  touched?: boolean;
}) {
  return (
    <li className={touched ? 'touched' : ''}>
      <span className="n">{number}.</span>
      {step.sentence.map((piece, k) =>
        typeof piece === 'string' ? (
          piece
        ) : (
          <span key={k}>
            <EditableNumber
              value={piece.value}
              unit={piece.unit}
              label={piece.field}
              save={(value) => edit(place, piece.field, value)}
            />{' '}
            {piece.unit}
          </span>
        ),
      )}
    </li>
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
