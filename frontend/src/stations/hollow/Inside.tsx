import type { BuildRecord, PartRecord } from '../../app/client';
import { count, mm } from '../../app/units';
import { anchor } from '../../figure/picking';
import { fieldsChange, type Sheet } from '../../figure/sheet';
import { make } from '../../figure/trial';
import { openingsOf, type OpeningRow } from './hollow';

/** What is inside, in a line. */
export function HollowNow({ build, part }: Pick<Sheet, 'build' | 'part'>) {
  if (!part) return null;
  const ml = part.spaces.reduce((sum, space) => sum + space.millilitres, 0);
  if (!part.spaces.length) {
    return (
      <>
        <h2>{solidSaid(build, part) ? 'Solid, as was decided' : 'Solid, with no space inside'}</h2>
        <Left part={part} />
      </>
    );
  }
  const sealed = part.spaces.filter(({ openings }) => !openings.length).length;
  return (
    <>
      <h2>
        {count(part.spaces.length, 'space')} of {ml.toFixed(2)} ml
        {sealed ? `, ${sealed === part.spaces.length ? '' : `${sealed} of them `}sealed` : ''}
      </h2>
      <Left part={part} />
    </>
  );
}

function solidSaid(build: BuildRecord, part: PartRecord): boolean {
  return build.steps.some(
    ({ step }) => step.kind === 'leave-solid' && step.on && (!step.scope || step.scope === part.facts.part),
  );
}

function Left({ part }: { part: PartRecord }) {
  if (part.left_ml < LEAST_ML) return null;
  return <p className="why">{part.left_ml.toFixed(2)} ml of resin stay in it as it hangs.</p>;
}

/** Resin under this is not told, ml. */
const LEAST_ML = 0.02;

/** Spaces, openings, and what goes inside. */
export function Inside(sheet: Sheet) {
  const { build, part, busy } = sheet;
  if (!part) return null;
  const openings = openingsOf(build, part);
  return (
    <>
      {part.spaces.length > 0 && (
        <>
          <h3>Spaces</h3>
          <table className="limbs">
            <thead>
              <tr>
                <th scope="col">space</th>
                <th scope="col">volume, ml</th>
                <th scope="col">openings</th>
              </tr>
            </thead>
            <tbody>
              {part.spaces.map((space, k) => (
                <tr key={space.place.join(' ')}>
                  <th scope="row">{k + 1}</th>
                  <td>{space.millilitres.toFixed(2)}</td>
                  <td className={space.openings.length ? undefined : 'grave'}>
                    {space.openings.length || 'none, it is sealed'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {openings.length > 0 && (
        <>
          <h3>Openings</h3>
          <table className="limbs">
            <thead>
              <tr>
                <th scope="col">opening</th>
                <th scope="col">wide, mm</th>
                <th scope="col">where</th>
                <th scope="col">change it</th>
              </tr>
            </thead>
            <tbody>
              {openings.map((row) => (
                <tr key={row.number}>
                  <th scope="row">{row.number + 1}</th>
                  <td>{mm(row.diameter)}</td>
                  <td>
                    {row.end}
                    {row.plugged && ', plugged'}
                  </td>
                  <td>
                    {row.step && (
                      <>
                        <button
                          className="plain"
                          disabled={busy}
                          onClick={() => move(sheet, row)}
                          aria-label={`move opening ${row.number + 1}`}
                        >
                          <u>move</u>
                        </button>{' '}
                        <button
                          className="plain"
                          disabled={busy}
                          onClick={() => takeOut(sheet, row)}
                          aria-label={`take out opening ${row.number + 1}`}
                        >
                          <u>take out</u>
                        </button>
                      </>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {build.inserts.length > 0 && (
        <>
          <h3>What goes inside</h3>
          <table className="limbs">
            <thead>
              <tr>
                <th scope="col">bought part</th>
                <th scope="col">pieces</th>
                <th scope="col">cut to, mm</th>
                <th scope="col">weight, g</th>
              </tr>
            </thead>
            <tbody>
              {grouped(build.inserts).map(({ name, length, pieces, grams }) => (
                <tr key={`${name} ${length}`}>
                  <th scope="row">{name}</th>
                  <td>{pieces}</td>
                  <td>{length === null ? 'whole' : mm(length)}</td>
                  <td>{grams.toFixed(2)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}

function move({ part, picking, acts }: Sheet, { step, place, number }: OpeningRow) {
  if (!step) return;
  picking.ask({
    says: `Click where opening ${number + 1} is to be`,
    count: 1,
    then: ([pick]) => {
      if (!pick) return;
      const places = step.places.map((old, k) => (k === place ? anchor(pick, part?.source ?? '') : old));
      make(acts, fieldsChange(`opening ${number + 1} moved`, step, { places }));
    },
  });
}

function takeOut({ acts }: Sheet, { step, place, number }: OpeningRow) {
  if (!step) return;
  const places = step.places.filter((_, k) => k !== place);
  if (places.length) make(acts, fieldsChange(`opening ${number + 1} taken out`, step, { places }));
  else acts.removeStep(step.id);
}

interface Group {
  name: string;
  length: number | null;
  pieces: number;
  grams: number;
}

function grouped(inserts: BuildRecord['inserts']): Group[] {
  const found = new Map<string, Group>();
  for (const { name, length = null, grams } of inserts) {
    const key = `${name} ${length}`;
    const known = found.get(key) ?? { name: name || 'wire for a limb', length, pieces: 0, grams: 0 };
    found.set(key, { ...known, pieces: known.pieces + 1, grams: known.grams + grams });
  }
  return [...found.values()];
}
