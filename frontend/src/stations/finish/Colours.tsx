import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';

import { api, dataOf, type BenchView, type BuildRecord } from '../../app/client';
import { count, duration, mm } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { AirLine } from './AirLine';
import styles from './finish.module.css';
import { coatSaid, planOf, schemeOf } from './plan';

/** The bench's paints that are in use, and the names of all by their ids. */
export function usePaints() {
  const bench = useQuery({
    queryKey: ['bench'],
    queryFn: () => dataOf<BenchView>(api.GET('/api/bench')),
  });
  const things = bench.data?.lists.find(({ place }) => place === 'paints')?.things ?? [];
  return {
    paints: things.filter(({ retired }) => !retired),
    names: new Map(things.map(({ id, name }) => [id, name])),
  };
}

/** Which scheme is looked at: the one in the address. */
export function useScheme() {
  const [address, setAddress] = useSearchParams();
  return {
    looked: address.get('scheme'),
    look: (name: string) =>
      setAddress((before) => {
        before.set('scheme', name);
        return before;
      }),
  };
}

/** The colours of the figure and what they take, then the order of work. */
export function Colours({ build, acts, busy }: Pick<Sheet, 'build' | 'acts' | 'busy'>) {
  const plan = planOf(build);
  const finish = build.finish;
  const { looked, look } = useScheme();
  const { names } = usePaints();
  const scheme = schemeOf(build, looked);
  if (!finish) return <h2>Wait until the figure is checked</h2>;
  const schemes = finish.schemes ?? [];
  const roles = scheme?.roles ?? [];
  const painted = roles.reduce((sum, { area_mm2 }) => sum + area_mm2, 0);
  const left = (finish.whole_mm2 ?? 0) - painted;
  const colours = plan?.schemes?.find(({ name }) => name === scheme?.name)?.roles ?? [];
  const remove = (role: string) =>
    plan &&
    acts.setFields(`${role} taken off`, plan, {
      regions: (plan.regions ?? []).filter((region) => region.role !== role),
    });
  return (
    <>
      <h2>
        {roles.length
          ? `${count(roles.length, 'colour')} in ${scheme?.name ?? ''}`
          : 'Nothing is coloured yet'}
      </h2>
      {roles.length === 0 && (
        <p className="why">
          Touch the figure where one colour goes: it grows to the edges and folds about it. Colours are tried
          in schemes beside each other before any paint is opened.
        </p>
      )}
      {schemes.length > 1 && (
        <p className={styles.schemes} role="group" aria-label="Schemes">
          {schemes.map(({ name }) => (
            <button
              key={name}
              className="plain"
              aria-pressed={name === scheme?.name}
              onClick={() => look(name)}
            >
              {name}
              {name === finish.scheme && <span className="soft"> meant</span>}
            </button>
          ))}
        </p>
      )}
      {roles.length > 0 && (
        <table className={`limbs ${styles.roles}`}>
          <thead>
            <tr>
              <th scope="col">colour</th>
              <th scope="col">cm²</th>
              <th scope="col">drops</th>
              <th scope="col">min</th>
            </tr>
          </thead>
          <tbody>
            {roles.map((role) => {
              const stack = colours.find((one) => one.role === role.role);
              return (
                <tr key={role.role}>
                  <th scope="row">
                    <i className={styles.swatch} style={{ background: role.colour }} aria-hidden="true" />
                    <span>
                      <b>{role.role}</b>
                      <br />
                      <span className="soft">
                        {role.bare
                          ? 'bare'
                          : (stack?.coats ?? []).map((coat) => coatSaid(coat, names)).join('; ') ||
                            'no colour said yet'}
                      </span>
                      <br />
                      <span className="soft">
                        {`${percent(role.seen ?? 1)} of it seen, ${percent(role.recesses ?? 0)} recesses, ${percent(role.edges ?? 0)} edges`}
                      </span>{' '}
                      <button
                        className="plain"
                        disabled={busy}
                        aria-label={`Take off ${role.role}`}
                        onClick={() => remove(role.role)}
                      >
                        <u>take off</u>
                      </button>
                    </span>
                  </th>
                  <td>{(role.area_mm2 / 100).toFixed(1)}</td>
                  <td>{role.bare ? 'masked' : Math.ceil(role.drops)}</td>
                  <td>{role.minutes.toFixed(0)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {roles.length > 0 && left > 0.02 * (finish.whole_mm2 ?? 0) && (
        <p className="soft">
          {(left / 100).toFixed(1)} cm² of the figure have no colour yet. Amounts are estimates.
        </p>
      )}
      {roles.length > 0 && <AirLine />}
      <Decals build={build} acts={acts} busy={busy} />
      <Masks masks={finish.masks ?? []} />
      <Work build={build} />
    </>
  );
}

const percent = (share: number) => `${Math.round(100 * share)} %`;

/** The decals that are planned. */
function Decals({ build, acts, busy }: Pick<Sheet, 'build' | 'acts' | 'busy'>) {
  const plan = planOf(build);
  const decals = plan?.decals ?? [];
  if (!plan || !decals.length) return null;
  const called = (name: string) =>
    build.parts.find(({ facts }) => facts.part === name)?.facts.called ?? 'a part that was cut';
  return (
    <>
      <h3>Decals</h3>
      <ul className="plain-list" aria-label="Decals">
        {decals.map((decal, k) => (
          <li key={k}>
            {decal.name}{' '}
            <span className="soft">
              {mm(decal.wide)} × {mm(decal.high)} mm on {called(decal.part)}
            </span>{' '}
            <button
              className="plain"
              disabled={busy}
              aria-label={`Take off the decal ${decal.name}`}
              onClick={() =>
                acts.setFields(`decal ${decal.name} taken off`, plan, {
                  decals: decals.filter((_, at) => at !== k),
                })
              }
            >
              <u>take off</u>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

type Mask = NonNullable<NonNullable<BuildRecord['finish']>['masks']>[number];

/** Lines that are masked before something is sprayed, and how much of each a seam hides. */
function Masks({ masks }: { masks: Mask[] }) {
  if (!masks.length) return null;
  const sides = ({ roles }: Mask) => roles.map((role) => role || 'bare surface').join(' and ');
  return (
    <>
      <h3>Masked</h3>
      <ul className="plain-list" aria-label="Masking lines">
        {masks.map((mask) => (
          <li key={mask.roles.join()}>
            {sides(mask)}: {mm(mask.length_mm)} mm{' '}
            <span className="soft">
              {Math.round((100 * mask.along_seam_mm) / Math.max(mask.length_mm, 1e-9))} % along a seam; seal
              the edge with the colour below first
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** The order of work, and how long the other school would take. */
function Work({ build }: Pick<Sheet, 'build'>) {
  const { work = [], other_work = [] } = build.finish ?? {};
  const plan = planOf(build);
  const hands = (rows: typeof work) => rows.reduce((sum, row) => sum + row.hands_min, 0) * 60;
  const waits = (rows: typeof work) => rows.reduce((sum, row) => sum + (row.wait_min ?? 0), 0) * 60;
  return (
    <>
      <h3>Order of work</h3>
      <p className="soft">
        {duration(hands(work))} of hands, {duration(waits(work))} of waiting (estimates)
        {other_work.length > 0 &&
          `; ${plan?.painted_before ? 'assembled first' : 'painted first'} it would be ${duration(hands(other_work))} and ${duration(waits(other_work))}`}
        .
      </p>
      <ol className={styles.work} aria-label="Order of work">
        {work.map((row, k) => (
          <li key={k}>
            <b>{row.what}</b>: {row.says}{' '}
            <span className="soft">
              {row.hands_min.toFixed(0)} min
              {(row.wait_min ?? 0) > 0 && `, then ${duration((row.wait_min ?? 0) * 60)}`}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}

/** The cautions that go with the work, once. */
export function WorkCautions({ page }: Pick<Sheet, 'page'>) {
  return (
    <>
      <h3>Cautions</h3>
      <ul className="plain-list">
        {[...page.cautions, ...PAINT_CAUTIONS].map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
    </>
  );
}

const PAINT_CAUTIONS = [
  'Spray outdoors or with an extractor, with a mask that is made for paint; never near a flame.',
  'What the label of a paint, glue or solvent says goes before anything here, and so do local rules.',
];
