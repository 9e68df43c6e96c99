import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';

import type { BuildRecord, NewStep, PartRecord, StepFields } from '../app/client';
import { stepsOf } from '../app/steps';
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

const FRONT: StepFields = { kind: 'show-side', values: { direction: [0, -1, 0] } };

/** Stand: how the figure lies in the printer, what holds it, and the acts that change that. */
export function StandPanel({ build, part, acts, picking, pointAt }: Props) {
  if (!part) return null;
  const { estimate } = part;
  const { stance, print_height_mm: top } = part.facts;
  const lean = (Math.acos(Math.min(1, Math.max(-1, stance.up[2]))) * 180) / Math.PI;
  const contacts = stance.contacts;
  const tips = contacts.map((contact) => contact.tip_mm);
  const loads = contacts.map((contact) => contact.load_N);
  const support = stepsOf(build, 'support').at(-1);
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
      <ShowSide build={build} acts={acts} picking={picking} pointAt={pointAt} busy={busy} />
      <ul className="plain-list acts" aria-label="Ways to stand">
        <li>
          <button
            className="ruled"
            disabled={busy}
            onClick={() =>
              acts.setSteps(
                'leaned the best way and held',
                // Else it may be leaned onto its face.
                ...(stepsOf(build, 'show-side').length ? [] : [FRONT]),
                turned(null),
                { kind: 'support', values: { on: true } },
              )
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
              acts.setSteps('held as it stands', turned([0, 0, 1]), {
                kind: 'support',
                values: { on: true },
              })
            }
          >
            Hold it upright
          </button>
        </li>
        {contacts.length > 0 && support && (
          <li>
            <button className="ruled" disabled={busy} onClick={() => acts.switchStep(support.id, false)}>
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

function ShowSide({ build, acts, picking, pointAt, busy }: Omit<Props, 'part'> & { busy: boolean }) {
  const [said] = stepsOf(build, 'show-side');
  const shown = said?.on ? said.direction : null;
  const side = SIDES.find(
    ([, way]) => shown && way.every((value, k) => Math.abs(value - (shown[k] ?? 0)) < 1e-6),
  );
  const choose = (name: string) => {
    const way = SIDES.find(([other]) => other === name)?.[1] ?? null;
    if (way) acts.addStep(`the ${name} shows`, { kind: 'show-side', direction: way });
    else if (said) acts.removeStep(said.id);
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

/** The side that shows, where the figure was pointed at. */
export function pointedAt(normal: Vector): NewStep {
  return { kind: 'show-side', direction: normal };
}

/** How the figure is turned; the best way, where none is given, is sought anew. */
function turned(up: Vector | null): StepFields {
  return { kind: 'orient', values: { up, on: true, taken: [] } };
}

function heading(lean: number, contacts: number, lift: number): string {
  const stands = lean < 0.5 ? 'Stands upright' : `Leans ${lean.toFixed(0)}°`;
  if (contacts > 0) return `${stands}, held by ${count(contacts, 'contact')}`;
  return lift > 0 ? `${stands}, not held` : `${stands} on the plate`;
}
