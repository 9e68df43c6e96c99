import { Link } from 'react-router';

import type { BuildRecord, FigurePage, Setup } from '../../app/client';
import { duration, mm, money } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import type { FigureActs } from '../../figure/useFigure';
import { KeptNumber, ChoiceField } from '../Fields';

/** How large the figure is, and what that takes. */
export function SizeNow({ build }: { build: BuildRecord }) {
  const { estimate, size_mm: size } = build;
  return (
    <>
      <h2>{mm(size[2])} mm tall</h2>
      <dl className="facts">
        <dt>wide, deep, tall</dt>
        <dd>{size.map(mm).join(' x ')} mm</dd>
        {estimate && (
          <>
            <dt>estimate</dt>
            <dd>
              {estimate.material_ml.toFixed(1)} ml, {duration(estimate.seconds)}, {money(estimate.money)} of
              material
              <div className="soft">{estimate.model}</div>
            </dd>
          </>
        )}
      </dl>
    </>
  );
}

/** The height or the factor, typed. */
export function HeightOrFactor({
  page,
  build,
  acts,
}: {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
}) {
  const factor = build.parts[0]?.facts.factor;
  const { edition } = page;
  const tall = mm(build.size_mm[2]);
  if (factor === undefined) return null;
  return (
    <div className="fields">
      <KeptNumber
        key={`height ${tall}`}
        label="Overall height, mm"
        value={tall}
        save={(height) => acts.setEdition({ ...edition, height, factor: null })}
      />
      <KeptNumber
        key={`factor ${factor}`}
        label="Factor from source to print"
        value={factor.toPrecision(5)}
        save={(to) => acts.setEdition({ ...edition, height: null, factor: to })}
      />
      <p className="soft">A number is taken when you press Enter or leave its field.</p>
    </div>
  );
}

/** What an edition may leave out of the recipe, and whether it is made mirrored. */
const FORMS = [
  { field: 'hollow', label: 'Hollow or solid', yes: 'hollow, where the recipe hollows it', no: 'solid' },
  { field: 'parted', label: 'In parts or whole', yes: 'in the parts the recipe cuts', no: 'whole' },
  {
    field: 'pockets',
    label: 'Pockets for bought parts',
    yes: 'with pockets for magnets and the like',
    no: 'closed',
  },
  { field: 'mirrored', label: 'Mirrored or as drawn', yes: 'mirrored, left for right', no: 'as it is drawn' },
] as const;

/** The setting it is made in, and its form: what it leaves out, and whether it is made mirrored. */
export function SettingAndForm({ page, acts, setups }: Pick<Sheet, 'page' | 'acts' | 'setups'>) {
  const { edition } = page;
  return (
    <div className="fields">
      <ChoiceField
        label="Setting"
        value={edition.setting}
        options={settingsToChoose(setups, edition.setting)}
        change={(setting) => acts.setEdition({ ...edition, setting })}
      />
      {FORMS.map(({ field, label, yes, no }) => (
        <ChoiceField
          key={field}
          label={label}
          value={(edition.form[field] ?? field !== 'mirrored') ? 'yes' : 'no'}
          options={{ yes, no }}
          change={(to) => acts.setEdition({ ...edition, form: { ...edition.form, [field]: to === 'yes' } })}
        />
      ))}
      <p className="soft">
        <Link to="/bench">The bench</Link> holds every printer, material and setting.
      </p>
    </div>
  );
}

/** Settings of single parts: the limbs in a tougher resin, the lamp clear. */
export function OwnSettings({
  page,
  build,
  acts,
  setups,
}: Pick<Sheet, 'page' | 'build' | 'acts' | 'setups'>) {
  const { edition } = page;
  const own = edition.part_settings ?? {};
  const set = (part: string, setting: string) => {
    const others = Object.entries(own).filter(([name]) => name !== part);
    const part_settings = Object.fromEntries(setting ? [...others, [part, setting]] : others);
    acts.setEdition({ ...edition, part_settings });
  };
  return (
    <div className="fields">
      {build.parts.map(({ facts: { part } }) => (
        <ChoiceField
          key={part}
          label={`Setting of ${part}`}
          value={own[part] ?? ''}
          shownWhenEmpty
          options={[['', 'as the whole edition'], ...settingsToChoose(setups, own[part] ?? '')]}
          change={(to) => set(part, to)}
        />
      ))}
    </div>
  );
}

/** Settings that are offered, and the one in use even where it is offered no more. */
function settingsToChoose(setups: Setup[], now: string) {
  return setups
    .filter(({ id, retired }) => !retired || id === now)
    .map(
      ({ id, name, retired, setting }) =>
        [
          id,
          `${name}, layers ${setting.layer} mm, walls from ${mm(setting.walls.free_standing.stop)} mm${retired ? ', retired' : ''}`,
        ] as const,
    );
}
