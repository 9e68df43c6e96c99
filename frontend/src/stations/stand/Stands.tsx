import type { NewStep, PartRecord, StepFields } from '../../app/client';
import { stepsOf } from '../../app/steps';
import { count, duration, mm } from '../../app/units';
import { DoIt } from '../../figure/DoIt';
import type { Sheet } from '../../figure/sheet';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField } from '../Fields';

type Vector = [number, number, number];

const SIDES: [string, Vector][] = [
  ['front', [0, -1, 0]],
  ['back', [0, 1, 0]],
  ['left', [-1, 0, 0]],
  ['right', [1, 0, 0]],
  ['top', [0, 0, 1]],
];

export const HELD: StepFields = { kind: 'support', values: { on: true } };
const FRONT: StepFields = { kind: 'show-side', values: { direction: [0, -1, 0] } };

/** Whether anybody said which side shows. */
export const sideSaid = (build: Sheet['build']): boolean => stepsOf(build, 'show-side').some(({ on }) => on);

/** How the figure lies in the printer, and what holds it. */
export function Stands({ part }: { part: PartRecord | undefined }) {
  if (!part) return null;
  const { estimate } = part;
  const { stance, print_height_mm: top } = part.facts;
  const lean = (Math.acos(Math.min(1, Math.max(-1, stance.up[2]))) * 180) / Math.PI;
  const contacts = stance.contacts;
  const tips = contacts.map((contact) => contact.tip_mm);
  const loads = contacts.map((contact) => contact.load_N);
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
      <p className="soft">
        Islands are held first, then undersides, none on the side that shows unless an island begins there.
        Cut supports with goggles and gloves on; cured and uncured splinters fly.
      </p>
    </>
  );
}

/** Which side of the figure shows, so that supports keep off it. */
export function ShowSide({ build, acts, picking }: Pick<Sheet, 'build' | 'acts' | 'picking'>) {
  const busy = acts.busy || acts.stale;
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
  const point = () =>
    picking.ask({
      says: 'Click the side of the figure that shows',
      count: 1,
      then: ([pick]) => pick && acts.addStep('pointed at the side that shows', pointedAt(pick.normal)),
    });
  return (
    <div className="show-side">
      <ChoiceField
        label="Side that shows"
        disabled={busy}
        value={side?.[0] ?? (shown ? 'pointed' : 'none')}
        options={[
          ['none', 'none in particular'],
          ...SIDES.map(([name]) => [name, name] as const),
          ...(shown && !side ? [['pointed', 'where it was pointed at'] as const] : []),
        ]}
        change={choose}
      />
      <button
        className="ruled"
        disabled={busy}
        aria-pressed={!!picking.asked}
        onClick={picking.asked ? picking.leave : point}
      >
        {picking.asked ? 'Click the figure, or leave it' : 'Point at it'}
      </button>
    </div>
  );
}

/** Leans the figure so that little has to hold it, and holds it. */
export function LeanBest({ build, acts }: Pick<Sheet, 'build' | 'acts'>) {
  const named = stepsOf(build, 'show-side').length > 0;
  return (
    <>
      <p className="why">
        Ways to stand are tried, and the one with the fewest scars on the side that shows, islands and hours
        is taken.{!named && ' Nobody said which side shows: the front is taken for it.'}
      </p>
      <DoIt
        acts={acts}
        label="Lean it the best way and hold it"
        change={{
          does: 'set',
          says: 'leaned the best way and held',
          // Else it may be leaned onto its face.
          steps: [...(named ? [] : [FRONT]), turned(null), HELD],
        }}
      />
    </>
  );
}

/** Stands the figure upright, and holds it. */
export function HoldUpright({ acts }: { acts: FigureActs }) {
  return (
    <>
      <p className="why">It stays upright; islands and undersides are held.</p>
      <DoIt
        acts={acts}
        label="Hold it upright"
        change={{ does: 'set', says: 'held as it stands', steps: [turned([0, 0, 1]), HELD] }}
      />
    </>
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
