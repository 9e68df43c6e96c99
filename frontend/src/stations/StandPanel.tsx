import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';

import type { BuildRecord, PartRecord, SaidStep, StepFields } from '../app/client';
import { count, duration, mm } from '../app/units';
import type { Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';

type Vector = [number, number, number];

interface Props {
  build: BuildRecord;
  part: PartRecord | undefined;
  acts: FigureActs;
  picking: Picking;
  /** Begin, or leave, pointing at the side that shows. */
  pointAt: () => void;
}

const SIDES: [string, Vector][] = [
  ['front', [0, -1, 0]],
  ['back', [0, 1, 0]],
  ['left', [-1, 0, 0]],
  ['right', [1, 0, 0]],
  ['top', [0, 0, 1]],
];

/** Stand: how the figure lies in the printer, what holds it, and the acts that change that. */
export function StandPanel({ build, part, acts, picking, pointAt }: Props) {
  if (!part) return null;
  const { estimate } = part;
  const { stance, print_height_mm: top } = part.facts;
  const lean = (Math.acos(Math.min(1, Math.max(-1, stance.up[2]))) * 180) / Math.PI;
  const contacts = stance.contacts;
  const tips = contacts.map((contact) => contact.tip_mm);
  const loads = contacts.map((contact) => contact.load_N);
  const support = build.steps.findIndex((step) => step.kind === 'support');
  const busy = acts.busy || acts.stale;
  return (
    <>
      <h2>{heading(lean, contacts.length, stance.lift)}</h2>
      <dl className="facts">
        <dt>top</dt>
        <dd>{mm(top)} mm above the plate</dd>
        <dt>lowest</dt>
        <dd>{stance.lift > 0 ? `${mm(stance.lift)} mm above the plate` : 'on the plate'}</dd>
        {contacts.length > 0 && (
          <>
            <dt>contacts</dt>
            <dd>
              {contacts.length.toLocaleString('en')}, tips {Math.min(...tips).toFixed(2)} to{' '}
              {Math.max(...tips).toFixed(2)} mm, sized by what they bear
            </dd>
            <dt>pull</dt>
            <dd>at most {Math.max(...loads).toFixed(2)} N on one (estimate)</dd>
            <dt>supports</dt>
            <dd>{stance.support_ml.toFixed(1)} ml</dd>
          </>
        )}
        {estimate && (
          <>
            <dt>print</dt>
            <dd>
              {count(estimate.layers, 'layer')}, {duration(estimate.seconds)} (estimate)
            </dd>
          </>
        )}
      </dl>
      <ShowSide build={build} part={part} acts={acts} picking={picking} pointAt={pointAt} busy={busy} />
      <ul className="plain-list acts" aria-label="Ways to stand">
        <li>
          <button
            className="ruled"
            disabled={busy}
            onClick={() =>
              acts.setSteps('leaned the best way and held', turned(build, null), {
                kind: 'support',
                values: { on: true },
              })
            }
          >
            Lean it the best way and hold it
          </button>
        </li>
        <li>
          <button
            className="ruled"
            disabled={busy}
            onClick={() =>
              acts.setSteps('held as it stands', turned(build, [0, 0, 1]), {
                kind: 'support',
                values: { on: true },
              })
            }
          >
            Hold it upright
          </button>
        </li>
        {contacts.length > 0 && (
          <li>
            <button className="ruled" disabled={busy} onClick={() => acts.switchStep(support, false)}>
              Take the supports away
            </button>
          </li>
        )}
      </ul>
      <p className="soft">
        Islands are held first, then undersides, none on the side that shows unless an island begins there.
        Cut supports with goggles and gloves on; cured and uncured splinters fly.
      </p>
    </>
  );
}

function ShowSide({ build, part, acts, picking, pointAt, busy }: Props & { busy: boolean }) {
  const shown = part?.facts.stance.show ?? null;
  const side = SIDES.find(
    ([, way]) => shown && way.every((value, k) => Math.abs(value - (shown[k] ?? 0)) < 1e-6),
  );
  const choose = (name: string) => {
    const way = SIDES.find(([other]) => other === name)?.[1] ?? null;
    acts.setSteps(way ? `the ${name} shows` : 'no side shows', {
      kind: 'orient',
      values: { ...upright(build), show_side: way },
    });
  };
  return (
    <div className="show-side">
      <TextField
        select
        size="small"
        label="Side that shows"
        disabled={busy}
        value={side?.[0] ?? (shown ? 'pointed' : 'none')}
        onChange={(event) => choose(event.target.value)}
      >
        <MenuItem value="none">none in particular</MenuItem>
        {SIDES.map(([name]) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
        <MenuItem value="pointed" disabled>
          where it was pointed at
        </MenuItem>
      </TextField>
      <button className="ruled" disabled={busy} aria-pressed={!!picking.asked} onClick={pointAt}>
        {picking.asked ? 'Click the figure, or leave it' : 'Point at it'}
      </button>
    </div>
  );
}

/** Set the side that shows to where the figure was pointed at. */
export function pointedAt(build: BuildRecord, normal: Vector): StepFields {
  return { kind: 'orient', values: { ...upright(build), show_side: normal } };
}

/** What an orient step needs beside the side that shows: a figure that was never turned stays as it stands. */
function upright(build: BuildRecord): StepFields['values'] {
  return build.steps.some((step: SaidStep) => step.kind === 'orient') ? { on: true } : { up: [0, 0, 1] };
}

function turned(build: BuildRecord, up: Vector | null): StepFields {
  return { kind: 'orient', values: { up, on: true, show_side: build.parts[0]?.facts.stance.show ?? null } };
}

function heading(lean: number, contacts: number, lift: number): string {
  const stands = lean < 0.5 ? 'Stands upright' : `Leans ${lean.toFixed(0)}°`;
  if (contacts > 0) return `${stands}, held by ${count(contacts, 'contact')}`;
  return lift > 0 ? `${stands}, not held` : `${stands} on the plate`;
}
