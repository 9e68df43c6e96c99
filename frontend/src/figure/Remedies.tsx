import type { Remedy } from '../app/client';
import { duration, signed } from '../app/units';

interface Props {
  remedies: Remedy[];
  chosen: number;
  choose: (remedy: number) => void;
  apply: () => void;
}

/** The ways out of a finding as lines with what each costs; a second click on the chosen one applies it. */
export function Remedies({ remedies, chosen, choose, apply }: Props) {
  if (!remedies.length) {
    return (
      <p className="soft">
        No remedy is built for this yet. It stays open, and a release names it; mend it in the sculpt and
        bring that in again.
      </p>
    );
  }
  return (
    <ul className="remedies" aria-label="Remedies">
      {remedies.map((remedy, k) => (
        <li key={remedy.label} className={k === chosen ? 'chosen' : ''}>
          <button
            className="plain"
            aria-pressed={k === chosen}
            onClick={() => (k === chosen ? apply() : choose(k))}
          >
            <span>{remedy.label}</span>
            <span className="dots" />
            <span className="cost">{costOf(remedy)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function costOf({ cost }: Remedy): string {
  const said = [];
  if (cost.resin_ml != null) said.push(`${signed(cost.resin_ml)} ml`);
  if (cost.money != null) said.push(`${signed(cost.money)} in material`);
  if (cost.print_seconds != null)
    said.push(`${cost.print_seconds < 0 ? '−' : '+'}${duration(Math.abs(cost.print_seconds))}`);
  if (cost.says) said.push(cost.says);
  return said.join(', ');
}
