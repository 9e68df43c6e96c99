import { Fragment, type ReactNode } from 'react';

import { count, mm } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { calledOf, jointSays, movedInOrder, waysSay } from './part';

/** How it is parted, in a line. */
export function PartedNow({ build }: Pick<Sheet, 'build'>) {
  const joints = build.assembly.joints ?? [];
  if (!joints.length) {
    return (
      <h2>{build.parts.length > 1 ? `${count(build.parts.length, 'part')}, none cut` : 'In one piece'}</h2>
    );
  }
  const gaps = joints.flatMap(({ gap_mm: gap }) => (gap === null ? [] : [gap]));
  const overlap = joints.reduce((sum, { overlap_mm3: shared }) => sum + (shared ?? 0), 0);
  const keyed = joints.filter(({ keys }) => keys > 0);
  const one = keyed.filter(({ ways_round: ways }) => ways === 1).length;
  return (
    <>
      <h2>
        {count(build.parts.length, 'part')}, {count(joints.length, 'joint')}
      </h2>
      <p className="why">
        {gaps.length > 0 && `least gap ${Math.min(...gaps).toFixed(2)} mm, `}
        overlap {overlap < LEAST_MM3 ? '0' : overlap.toFixed(2)} mm³
        {keyed.length > 0 && `, one way round ${one} of ${keyed.length}`}
      </p>
    </>
  );
}

/** An overlap under this is rounding, mm³. */
const LEAST_MM3 = 0.005;

/** The order of assembly, the joints, and the parts. */
export function Joinery({ build, busy, acts, drawPart }: Sheet) {
  const joints = build.assembly.joints ?? [];
  if (!joints.length) return null;
  return (
    <>
      <h3>Order of assembly</h3>
      <Rows heads={['step', ['what goes in'], ['glue'], 'sand, min', 'sooner or later']}>
        <tr>
          <th scope="row">1</th>
          <td className="said">{calledOf(build, build.assembly.first ?? '')}, laid ready</td>
          <td />
          <td />
          <td />
        </tr>
        {(build.assembly.order ?? []).map((row, k) => (
          <tr key={row.parts.join(' ')}>
            <th scope="row">{k + 2}</th>
            <td className="said">
              {row.parts.map((name) => calledOf(build, name)).join(' with ')} {wayInWords(row.way)}
            </td>
            <td className="said">{row.glue ? `${row.glue}, ${row.minutes.toFixed(0)} min` : 'none'}</td>
            <td>{row.sanding_minutes.toFixed(1)}</td>
            <td>
              {([-1, 1] as const).map((by) => {
                const [part] = row.parts;
                const step = part && movedInOrder(build, part, by);
                return (
                  <Fragment key={by}>
                    {by > 0 && ' '}
                    <button
                      className="plain"
                      disabled={busy || !step}
                      aria-label={`${calledOf(build, part ?? '')} ${by < 0 ? 'sooner' : 'later'}`}
                      onClick={() => step && acts.addStep('order of assembly', step)}
                    >
                      <u>{by < 0 ? 'sooner' : 'later'}</u>
                    </button>
                  </Fragment>
                );
              })}
            </td>
          </tr>
        ))}
        {(build.assembly.blocked ?? []).map(({ part, free_mm: free }) => (
          <tr key={part}>
            <th scope="row">–</th>
            <td className="grave">{calledOf(build, part)}: blocked</td>
            <td colSpan={3}>{mm(free)} mm free</td>
          </tr>
        ))}
      </Rows>
      <h3>Joints</h3>
      <Rows heads={['joint', 'area, mm²', 'keys', 'gap, mm', 'ways round', 'opens at, N']}>
        {joints.map((joint) => (
          <tr key={`${joint.cut} ${joint.parts.join(' ')}`}>
            <th scope="row">{jointSays(build, joint)}</th>
            <td>{joint.area_mm2.toFixed(joint.area_mm2 < 10 ? 1 : 0)}</td>
            <td>{joint.keys}</td>
            <td>{joint.gap_mm === null ? '–' : joint.gap_mm.toFixed(2)}</td>
            <td>{waysSay(joint)}</td>
            <td>{joint.opens_N === null ? 'not known' : joint.opens_N.toFixed(1)}</td>
          </tr>
        ))}
      </Rows>
      <p className="soft">
        What opens a joint is an estimate: the stronger of its glue and its pegs, in bending.
      </p>
      <h3>Parts</h3>
      <Rows heads={['part', 'size, mm', 'ml', ['fits some way up']]}>
        {build.parts.map(({ facts, fits }, k) => (
          <tr key={facts.part}>
            <th scope="row">
              <button className="plain" onClick={() => drawPart(facts.part)}>
                {k + 1} <u>{facts.called}</u>
              </button>
            </th>
            <td>{facts.size_mm.map(mm).join(' x ')}</td>
            <td>{(facts.volume_mm3 / 1000).toFixed(2)}</td>
            <td className="said">{fits.length ? fits.join(', ') : 'none of the bench'}</td>
          </tr>
        ))}
      </Rows>
      <p>
        <a href={`/api/builds/${build.key}/parts.csv`} download="parts.csv">
          All parts and what is bought, as a table (CSV)
        </a>
        {build.exploded && (
          <>
            {', '}
            <a href={`/api/blobs/${build.exploded}`} download="pulled-apart.png">
              a picture of it pulled apart (PNG)
            </a>
          </>
        )}
      </p>
    </>
  );
}

/** A way in words, as the figure stands. */
function wayInWords([x, y, z]: readonly number[]): string {
  const ways: [number, string, string][] = [
    [z ?? 0, 'from below', 'from above'],
    [x ?? 0, 'from the left', 'from the right'],
    [y ?? 0, 'from the front', 'from behind'],
  ];
  const [most] = [...ways].sort(([a], [b]) => Math.abs(b) - Math.abs(a));
  return most ? (most[0] > 0 ? most[1] : most[2]) : '';
}

/** A ruled table with these heads, those of words in brackets. */
function Rows({ heads, children }: { heads: (string | [string])[]; children: ReactNode }) {
  return (
    <table className="limbs">
      <thead>
        <tr>
          {heads.map((head) => (
            <th key={String(head)} scope="col" className={typeof head === 'string' ? undefined : 'said'}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}
