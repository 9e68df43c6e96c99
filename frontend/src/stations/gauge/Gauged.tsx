import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, FigurePage, Gauge, Use } from '../../app/client';
import { count, mm } from '../../app/units';
import { anchor } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import type { FigureActs } from '../../figure/useFigure';
import { ThinPlaces } from './ThinPlaces';
import { WallLimits, WallShares } from './Walls';
import { ChoiceField } from '../Fields';

const USES: Record<Use, string> = {
  tabletop: 'moved about on a table, bears 1 N',
  display: 'stands in a cabinet, bears 5 N',
  play: 'toy or prop in play, bears 15 N',
};

/** What breaks first, where it is thin, how it stands, and its detail. */
export function Gauged({ build, setup, showPlace }: Pick<Sheet, 'build' | 'setup' | 'showPlace'>) {
  const { gauge } = build;
  return (
    <>
      <h3>What breaks first</h3>
      <Limbs gauge={gauge} />
      <h3>Walls</h3>
      <WallShares walls={gauge.walls} setup={setup} />
      <WallLimits setup={setup} />
      <ThinPlaces
        places={gauge.places}
        build={build.key}
        show={(place) => showPlace(place.part, place.point)}
      />
      <h3>How it stands, and its detail</h3>
      <Standing gauge={gauge} tall={build.size_mm[2]} />
      <Surer surer={gauge.surer} />
    </>
  );
}

/** How much is to be looked at. */
export function GaugeNow({ build }: { build: BuildRecord }) {
  const open = build.findings.filter((finding) => finding.station === 'gauge' && !finding.accepted).length;
  return <h2>{open ? `${count(open, 'finding')} to look at` : 'Nothing is under its limit'}</h2>;
}

/** What the figure has to bear. */
export function UseOf({ page, acts }: { page: FigurePage; acts: FigureActs }) {
  const { edition } = page;
  return (
    <div className="fields">
      <ChoiceField
        label="What it goes through"
        value={edition.use}
        options={USES}
        change={(to) => acts.setEdition({ ...edition, use: to })}
      />
    </div>
  );
}

/** How much sanding takes off. */
export function SandingOf({ page, acts }: { page: FigurePage; acts: FigureActs }) {
  const { edition } = page;
  return (
    <div className="fields">
      <Sanding
        key={edition.sanding}
        taken={edition.sanding}
        set={(sanding) => acts.setEdition({ ...edition, sanding })}
      />
    </div>
  );
}

/** Which face is meant to be level. */
export function MeantLevel({ part, acts, picking }: Pick<Sheet, 'part' | 'acts' | 'picking'>) {
  const pickLevel = () =>
    picking.ask({
      says: 'Click the face that is meant to be level',
      count: 1,
      then: ([pick]) =>
        pick &&
        acts.addStep('said what is meant to be level', {
          kind: 'meant-level',
          places: [anchor(pick, part?.source ?? '')],
        }),
    });
  return (
    <>
      <p className="why">A top or a table of the figure that leans is told, once it is known to be level.</p>
      <button className="ruled" disabled={acts.busy || acts.stale} onClick={pickLevel}>
        Pick a face meant to be level
      </button>
    </>
  );
}

/** What sanding takes off, set when the field is left or Enter is pressed. */
function Sanding({ taken, set }: { taken: number; set: (taken: number) => void }) {
  const [text, setText] = useState(String(taken));
  const value = text.trim() === '' ? 0 : Number(text.replace(',', '.'));
  const wrong = !(value >= 0 && value <= 1);
  const done = () => !wrong && value !== taken && set(value);
  return (
    <TextField
      label="Sanding takes off a side, mm"
      value={text}
      error={wrong}
      helperText={wrong ? '0 to 1 mm' : 'only where a stick gets to'}
      onChange={(event) => setText(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => event.key === 'Enter' && done()}
      slotProps={{ htmlInput: { inputMode: 'decimal' } }}
    />
  );
}

/** What bases and longer feet would do to how it stands. */
function Surer({ surer }: { surer: Gauge['surer'] }) {
  if (!surer.length) return null;
  const of = (how: Gauge['surer'][number]['how']) => surer.filter((one) => one.how === how);
  const heavy = new Map(of('heavy base').map((one) => [one.size_mm, one.tip_angle_deg]));
  return (
    <details>
      <summary>What would make it stand more surely</summary>
      <table className="limbs">
        <thead>
          <tr>
            <th scope="col">a round base of 3 mm</th>
            <th scope="col">printed, tips from</th>
            <th scope="col">of steel, tips from</th>
          </tr>
        </thead>
        <tbody>
          {of('base').map(({ size_mm: size, tip_angle_deg: angle }) => (
            <tr key={size}>
              <th scope="row">{size.toFixed(0)} mm wide</th>
              <td>{degrees(angle)}</td>
              <td>{degrees(heavy.get(size) ?? 0)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        Feet that reach farther out:{' '}
        {of('longer feet')
          .map((one) => `${one.size_mm.toFixed(0)} mm, ${degrees(one.tip_angle_deg)}`)
          .join('; ')}
        .
      </p>
    </details>
  );
}

function degrees(angle: number): string {
  return angle > 0 ? `${angle.toFixed(1)}°` : 'falls over';
}

function wire({ inserts_g }: Gauge): string {
  return inserts_g > 0 ? `, ${inserts_g.toFixed(2)} g of it wire` : '';
}

function Standing({ gauge, tall }: { gauge: Gauge; tall: number }) {
  return (
    <dl className="facts">
      <dt>balance</dt>
      <dd>
        {gauge.mass_g === null || gauge.tip_angle_deg === null || gauge.centre_mm === null
          ? 'not told: the figure does not close'
          : `${gauge.mass_g.toFixed(1)} g solid${wire(gauge)}, its middle of mass ${mm(gauge.centre_mm)} mm up; ` +
            (gauge.tip_angle_deg > 0
              ? `tips over from ${gauge.tip_angle_deg.toFixed(1)}°${ways(gauge)}`
              : 'it falls over by itself')}
      </dd>
      <dt>detail</dt>
      <dd>
        {gauge.detail_lost === null
          ? 'not told'
          : gauge.detail_lost === 0
            ? 'all of it shows, primed and painted'
            : `${(100 * gauge.detail_lost).toFixed(1)} % of the surface will not show, primed and painted; ` +
              `nine tenths of that would at ${gauge.detail_factor.toFixed(1)} times the size, ` +
              `${mm(tall * gauge.detail_factor)} mm tall`}
      </dd>
    </dl>
  );
}

/** How far it tips each way, the easiest first. */
function ways({ tips }: Gauge): string {
  const sorted = [...tips].sort((a, b) => a.angle_deg - b.angle_deg);
  return sorted.length
    ? ` (${sorted.map((tip) => `${tip.way} ${tip.angle_deg.toFixed(0)}°`).join(', ')})`
    : '';
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
