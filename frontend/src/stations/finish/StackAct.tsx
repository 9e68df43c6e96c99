import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf } from '../../app/client';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { usePaints, useScheme } from './Colours';
import styles from './finish.module.css';
import { MixesMade } from './MixesMade';
import { PhotoColour } from './PhotoColour';
import {
  changePlan,
  coatSaid,
  COATS,
  planOf,
  rolesOf,
  schemeOf,
  TOOLS,
  type Coat,
  type Scheme,
} from './plan';

const NEW_SCHEME = 'first scheme';
const MIXED = '';

interface Proposal {
  drops: Record<string, number>;
  colour: string;
  difference: number;
}

/** Says what a role is painted with in the scheme that is looked at, from the ground up. */
export function StackAct({ build, acts, busy }: Pick<Sheet, 'build' | 'acts' | 'busy'>) {
  const plan = planOf(build);
  const roles = rolesOf(plan);
  const { looked } = useScheme();
  const [role, setRole] = useState(roles[0] ?? '');
  const schemes: Scheme[] = plan?.schemes?.length ? plan.schemes : [{ name: NEW_SCHEME, roles: [] }];
  const scheme =
    schemes.find(({ name }) => name === looked) ??
    schemes.find(({ name }) => name === plan?.scheme) ??
    schemes[0];
  if (!roles.length || !scheme) return <p className="soft">Colour a region first.</p>;
  const known = scheme.roles?.find((one) => one.role === role);
  const keep = (coats: Coat[], bare: boolean) => {
    const others = (scheme.roles ?? []).filter((one) => one.role !== role);
    const changed = { ...scheme, roles: [...others, { role, coats, bare }] };
    changePlan({ build, acts }, `${role} in ${scheme.name}`, {
      schemes: schemes.map((one) => (one.name === scheme.name ? changed : one)),
    });
  };
  return (
    <>
      <div className="fields">
        <ChoiceField
          label="Region that gets the coats"
          value={role}
          options={roles.map((one) => [one, one] as const)}
          change={setRole}
        />
      </div>
      <p className="soft">In the scheme {scheme.name}.</p>
      <Stack
        key={`${scheme.name} ${role} ${JSON.stringify(known ?? null)}`}
        role={role}
        coats={known?.coats ?? []}
        bare={known?.bare ?? false}
        measured={measuredShares(schemeOf(build, scheme.name)?.roles.find((one) => one.role === role))}
        busy={busy}
        keep={keep}
      />
    </>
  );
}

/** On how many percent of a role a coat goes, as the surface has recesses and edges; 100 of what goes everywhere. */
function measuredShares(role: { recesses?: number; edges?: number } | undefined) {
  const least = (share: number | undefined) => Math.max(Math.round(100 * (share ?? 1)), 1);
  return (kind: Coat['kind']) =>
    kind === 'wash' ? least(role?.recesses) : kind === 'highlight' ? least(role?.edges) : 100;
}

function Stack({
  role,
  coats,
  bare,
  measured,
  busy,
  keep,
}: {
  role: string;
  coats: Coat[];
  bare: boolean;
  measured: (kind: Coat['kind']) => number;
  busy: boolean;
  keep: (coats: Coat[], bare: boolean) => void;
}) {
  const { paints, names } = usePaints();
  const [kind, setKind] = useState<Coat['kind']>(coats.length ? 'wash' : 'base');
  const [paint, setPaint] = useState('');
  const [mix, setMix] = useState<Proposal | null>(null);
  const [many, setMany] = useState('1');
  const [thinned, setThinned] = useState('0');
  const [share, setShare] = useState(String(measured(kind)));
  const [tool, setTool] = useState<NonNullable<Coat['tool']>>('brush');
  const number = numberIn(many);
  const percent = numberIn(share);
  const thin = numberIn(thinned, true);
  const can =
    !busy &&
    (mix !== null || paint !== '') &&
    number !== null &&
    Number.isInteger(number) &&
    number <= 20 &&
    percent !== null &&
    percent <= 100 &&
    thin !== null &&
    thin <= 98;
  const add = () => {
    if (!can) return;
    const coat: Coat = {
      kind,
      paint: mix ? `mix for ${role}`.slice(0, 60) : paint,
      drops: mix?.drops ?? {},
      coats: number,
      thinned: thin / 100,
      share: percent / 100,
      tool,
      wait_min: null,
    };
    keep([...coats, coat], false);
  };
  useKeys({ a: add });
  return (
    <>
      <ol className={styles.work} aria-label="Coats">
        {coats.map((coat, k) => (
          <li key={k}>
            {coatSaid(coat, names)}
            {(coat.thinned ?? 0) > 0 && `, ${Math.round(100 * (coat.thinned ?? 0))} % thinner`}
            {(coat.share ?? 1) < 1 && `, on ${Math.round(100 * (coat.share ?? 1))} % of it`},{' '}
            {TOOLS[coat.tool ?? 'brush']}{' '}
            <button
              className="plain"
              disabled={busy}
              aria-label={`Leave out coat ${k + 1}`}
              onClick={() =>
                keep(
                  coats.filter((_, at) => at !== k),
                  bare,
                )
              }
            >
              <u>leave out</u>
            </button>
          </li>
        ))}
      </ol>
      <p>
        <label>
          <input
            type="checkbox"
            checked={bare}
            disabled={busy}
            onChange={() => keep(bare ? coats : [], !bare)}
          />{' '}
          it stays bare, or clear
        </label>
      </p>
      <h3>Another coat</h3>
      <div className="fields two">
        <ChoiceField
          label="Coat"
          value={kind}
          options={COATS}
          change={(next) => {
            setKind(next);
            setShare(String(measured(next)));
          }}
        />
        <ChoiceField
          label="Paint"
          value={mix ? MIXED : paint}
          shownWhenEmpty
          options={[
            [MIXED, mix ? 'the mix below' : 'none chosen'] as const,
            ...paints.map(({ id, name }) => [id, name] as const),
          ]}
          change={(next) => {
            setPaint(next);
            setMix(null);
          }}
        />
        <NumberField label="Coats" text={many} change={setMany} />
        <NumberField label="Thinner, %" text={thinned} change={setThinned} zero />
        <NumberField label="On how much of it, %, as measured" text={share} change={setShare} />
        <ChoiceField label="With" value={tool} options={TOOLS} change={setTool} />
      </div>
      <Mixes names={names} chosen={mix} choose={setMix} />
      <MixesMade name={`mix for ${role}`.slice(0, 60)} drops={mix?.drops ?? null} names={names} />
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={add}>
          Add the coat
        </button>
      </div>
    </>
  );
}

/** Mixes in whole drops that come nearest to a colour that is wanted. */
function Mixes({
  names,
  chosen,
  choose,
}: {
  names: ReadonlyMap<string, string>;
  chosen: Proposal | null;
  choose: (mix: Proposal | null) => void;
}) {
  const [want, setWant] = useState('#41576b');
  const found = useMutation({
    mutationFn: () => dataOf<Proposal[]>(api.POST('/api/colours/proposals', { body: { want, paints: [] } })),
  });
  return (
    <>
      <div className={styles.want}>
        <label>
          a colour that is wanted{' '}
          <input type="color" value={want} onChange={(event) => setWant(event.target.value)} />
        </label>
        <TextField
          size="small"
          label="As #rrggbb"
          value={want}
          onChange={(event) => setWant(event.target.value.toLowerCase())}
        />
        <PhotoColour take={setWant} />
        <button
          className="ruled"
          disabled={found.isPending || !/^#[0-9a-f]{6}$/.test(want)}
          onClick={() => found.mutate()}
        >
          {found.isPending ? 'Mixing …' : 'Find mixes'}
        </button>
      </div>
      <ErrorLine says={found.error?.message} />
      {found.data && (
        <ul className={styles.mixes} aria-label="Mixes">
          {found.data.map((one) => (
            <li key={JSON.stringify(one.drops)}>
              <button
                className="plain"
                aria-pressed={chosen === one}
                onClick={() => choose(chosen === one ? null : one)}
              >
                <i className={styles.pair} aria-hidden="true">
                  <span style={{ background: want }} />
                  <span style={{ background: one.colour }} />
                </i>
                {Object.entries(one.drops)
                  .map(([name, drops]) => `${drops} ${names.get(name) ?? name}`)
                  .join(', ')}{' '}
                <span className="soft">{one.difference.toFixed(1)} away</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {found.data && (
        <p className="soft">
          Wanted left, mixed right; drops; how unlike in CIEDE2000, where 1 is just seen. Estimates from dried
          swatches.
        </p>
      )}
    </>
  );
}
