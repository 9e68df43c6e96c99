import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';

import type { BuildRecord, FigurePage, Gauge, Use } from '../app/client';
import { count, mm } from '../app/units';
import type { FigureActs } from '../figure/useFigure';

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
}

const USES: Record<Use, string> = {
  tabletop: 'moved about on a table, bears 1 N',
  display: 'stands in a cabinet, bears 5 N',
  play: 'toy or prop in play, bears 15 N',
};

/** Gauge: what the figure goes through, what breaks first, how it stands, and the detail that will not show. */
export function GaugePanel({ page, build, acts }: Props) {
  const { gauge } = build;
  const { edition } = page;
  const open = build.findings.filter((finding) => finding.station === 'gauge' && !finding.accepted).length;
  return (
    <>
      <h2>{open ? `${count(open, 'finding')} to look at` : 'Nothing is under its limit'}</h2>
      <div className="fields">
        <TextField
          select
          label="What it goes through"
          value={edition.use}
          onChange={(event) => acts.setEdition({ ...edition, use: event.target.value as Use })}
        >
          {Object.entries(USES).map(([use, says]) => (
            <MenuItem key={use} value={use}>
              {says}
            </MenuItem>
          ))}
        </TextField>
      </div>
      <Standing gauge={gauge} />
      <h3>What breaks first</h3>
      <Limbs gauge={gauge} />
    </>
  );
}

function Standing({ gauge }: { gauge: Gauge }) {
  return (
    <dl className="facts">
      <dt>balance</dt>
      <dd>
        {gauge.mass_g === null || gauge.tip_angle_deg === null || gauge.centre_mm === null
          ? 'not told: the figure does not close'
          : `${gauge.mass_g.toFixed(1)} g solid, its middle of mass ${mm(gauge.centre_mm)} mm up; ` +
            (gauge.tip_angle_deg > 0
              ? `tips over from ${gauge.tip_angle_deg.toFixed(1)}°`
              : 'it falls over by itself')}
      </dd>
      <dt>detail</dt>
      <dd>
        {gauge.detail_lost === null
          ? 'not told'
          : gauge.detail_lost === 0
            ? 'all of it shows, primed and painted'
            : `${(100 * gauge.detail_lost).toFixed(1)} % of the surface will not show, primed and painted; ` +
              `nine tenths of that would at ${gauge.detail_factor.toFixed(1)} times the size`}
      </dd>
    </dl>
  );
}

function Limbs({ gauge }: { gauge: Gauge }) {
  if (!gauge.limbs.length)
    return <p className="soft">Nothing sticks out far enough to snap, or it was not told.</p>;
  return (
    <>
      <table className="limbs">
        <thead>
          <tr>
            <th scope="col">where</th>
            <th scope="col">push, N</th>
            <th scope="col">thick, mm</th>
            <th scope="col">lever, mm</th>
          </tr>
        </thead>
        <tbody>
          {gauge.limbs.map((limb) => (
            <tr key={`${limb.part} ${limb.point.join(' ')}`}>
              <th scope="row">
                {limb.name}
                {limb.slips && <span className="soft">, gives way to a finger</span>}
                {limb.drop && <span className="soft">, may break in a fall</span>}
              </th>
              <td>{limb.force_N < 10 ? limb.force_N.toFixed(2) : limb.force_N.toFixed(0)}</td>
              <td>{mm(limb.section_mm)}</td>
              <td>{mm(limb.lever_mm)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft">
        Estimates: each limb is a beam clamped where it breaks, pushed sideways at its tip. What a fall from a
        table does is a rough guess.
      </p>
    </>
  );
}
