import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import type { ReleaseItem, ReleaseSet, ReleaseSetView } from '../../app/client';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { useEditionChoice } from '../../shelf/useEditionChoice';
import { ChoiceField } from '../Fields';
import styles from './release.module.css';
import { useReleaseSets } from './useReleaseSets';
import { itemSaid, KINDS, SUPPORTED } from './words';

/** Begins a set, or says what of it goes out in which form to whom. */
export function GoesOutAct(sheet: Pick<Sheet, 'page' | 'leaveAct'>) {
  const releases = useReleaseSets(sheet.page);
  const { chosen } = releases;
  return chosen ? (
    <EditSet key={`${chosen.number} ${chosen.revision}`} set={chosen} {...sheet} />
  ) : (
    <BeginSet {...sheet} />
  );
}

/** Begins a set with the edition that is looked at. */
export function BeginSet({ page, leaveAct }: Pick<Sheet, 'page' | 'leaveAct'>) {
  const releases = useReleaseSets(page);
  const [name, setName] = useState(page.name);
  const [tiers, setTiers] = useState('free, bought');
  const named = tiersIn(tiers);
  const can = name.trim() !== '' && named.length > 0 && !releases.busy;
  const begin = () =>
    can &&
    releases.begin(
      {
        ...EMPTY,
        name: name.trim(),
        items: [itemOf(page.id, page.looked)],
        tiers: named.map((tier, k) => ({ name: tier, says: '', items: k === named.length - 1 ? [0] : [] })),
      },
      leaveAct,
    );
  useKeys({ a: begin });
  return (
    <>
      <ErrorLine says={releases.error} />
      <NameAndTiers name={name} setName={setName} tiers={tiers} setTiers={setTiers} />
      <p className="soft">
        The edition that is looked at goes into the last of them; the rest is said after.
      </p>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={begin}>
          Begin the set
        </button>
      </div>
    </>
  );
}

function EditSet({ set, page, leaveAct }: { set: ReleaseSetView } & Pick<Sheet, 'page' | 'leaveAct'>) {
  const releases = useReleaseSets(page);
  const [name, setName] = useState(set.release.name);
  const [tierText, setTierText] = useState(set.release.tiers.map((tier) => tier.name).join(', '));
  const [items, setItems] = useState(set.release.items);
  const [held, setHeld] = useState(
    Object.fromEntries(set.release.tiers.map((tier) => [tier.name, new Set(tier.items)])),
  );
  const [places, setPlaces] = useState(items.map((_, at) => at));
  const [names, setNames] = useState<Record<string, [string, string]>>({});
  const { chosen: other, fields } = useEditionChoice();
  const tiers = tiersIn(tierText);
  const change = (at: number, next: Partial<ReleaseItem>) =>
    setItems(items.map((one, k) => (k === at ? { ...one, ...next } : one)));
  const tick = (tier: string, at: number) => {
    const next = new Set(held[tier]);
    if (!next.delete(at)) next.add(at);
    setHeld({ ...held, [tier]: next });
  };
  const leave = (at: number) => {
    const moved = (place: number) => (place > at ? place - 1 : place);
    setItems(items.filter((_, k) => k !== at));
    setPlaces(places.filter((_, k) => k !== at));
    setHeld(
      Object.fromEntries(
        Object.entries(held).map(([tier, places]) => [
          tier,
          new Set([...places].filter((place) => place !== at).map(moved)),
        ]),
      ),
    );
  };
  const add = (mirrored: boolean, figure = page.id, edition = page.looked) => {
    setItems([...items, { ...itemOf(figure, edition), mirrored }]);
    setPlaces([...places, -1]);
    const last = tiers[tiers.length - 1];
    if (last) setHeld({ ...held, [last]: new Set([...(held[last] ?? []), items.length]) });
  };
  const has = (mirrored: boolean, figure = page.id, edition = page.looked) =>
    items.some((one) => one.figure === figure && one.edition === edition && one.mirrored === mirrored);
  const addOther = () => {
    if (!other || has(false, other.figure, other.edition)) return;
    setNames({ ...names, [keyOf(other)]: [other.figureName, other.editionName] });
    add(false, other.figure, other.edition);
  };
  const can = name.trim() !== '' && tiers.length > 0 && !releases.busy;
  const keep = () =>
    can &&
    releases.enter(
      set,
      'what goes out',
      {
        name: name.trim(),
        items,
        tiers: tiers.map((tier) => ({
          name: tier,
          says: set.release.tiers.find((one) => one.name === tier)?.says ?? '',
          items: [...(held[tier] ?? [])].sort((a, b) => a - b),
        })),
        listings: set.release.listings.filter((one) => tiers.includes(one.tier)),
        reports: set.release.reports.map((one) => ({
          ...one,
          item: one.item == null || !places.includes(one.item) ? null : places.indexOf(one.item),
        })),
      },
      leaveAct,
    );
  useKeys({ a: keep });
  return (
    <>
      <ErrorLine says={releases.error} />
      <NameAndTiers name={name} setName={setName} tiers={tierText} setTiers={setTierText} />
      {items.map((item, at) => {
        const said = itemSaid(
          item,
          set.items[places[at] ?? -1] ?? viewOf(names[keyOf(item)] ?? namesHere(page, item)),
        );
        return (
          <fieldset key={`${item.figure} ${item.edition} ${item.mirrored}`} className={styles.item}>
            <legend>{said}</legend>
            <div className="fields two">
              <ChoiceField
                label="Files"
                value={item.supported}
                options={SUPPORTED}
                change={(supported) => change(at, { supported })}
              />
              <ChoiceField
                label="Written as"
                value={item.kinds.length > 1 ? 'both' : (item.kinds[0] ?? 'both')}
                options={KINDS}
                change={(kind) => change(at, { kinds: kind === 'both' ? ['stl', '3mf'] : [kind] })}
              />
            </div>
            {tiers.map((tier) => (
              <label key={tier}>
                <input
                  type="checkbox"
                  checked={held[tier]?.has(at) ?? false}
                  onChange={() => tick(tier, at)}
                />
                {tier}
              </label>
            ))}
            <button className="plain" aria-label={`Take out ${said}`} onClick={() => leave(at)}>
              <u>take out</u>
            </button>
          </fieldset>
        );
      })}
      <p>
        <button className="plain" disabled={has(false)} onClick={() => add(false)}>
          <u>add the edition that is looked at</u>
        </button>{' '}
        <button className="plain" disabled={has(true)} onClick={() => add(true)}>
          <u>add it mirrored</u>
        </button>
      </p>
      <details>
        <summary>Add an edition of another figure</summary>
        <div className="fields two">{fields}</div>
        <p>
          <button
            className="ruled"
            disabled={!other || has(false, other.figure, other.edition)}
            onClick={addOther}
          >
            Add it to the set
          </button>
        </p>
      </details>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={keep}>
          Keep it so
        </button>
      </div>
    </>
  );
}

/** What a set is called, and for whom there are packs. */
function NameAndTiers({
  name,
  setName,
  tiers,
  setTiers,
}: {
  name: string;
  setName: (name: string) => void;
  tiers: string;
  setTiers: (tiers: string) => void;
}) {
  return (
    <div className="fields two">
      <TextField
        size="small"
        label="Name of the set"
        value={name}
        slotProps={{ htmlInput: { maxLength: 80 } }}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        size="small"
        label="Packs for whom, with commas between"
        value={tiers}
        onChange={(event) => setTiers(event.target.value)}
      />
    </div>
  );
}

const EMPTY: ReleaseSet = { name: '', items: [], tiers: [], words: [], guide: [], listings: [], reports: [] };

const itemOf = (figure: number, edition: string): ReleaseItem => ({
  figure,
  edition,
  supported: 'both',
  mirrored: false,
  kinds: ['stl', '3mf'],
});

const tiersIn = (text: string): string[] => [
  ...new Set(
    text
      .split(',')
      .map((one) => one.trim().slice(0, 80))
      .filter(Boolean),
  ),
];

const keyOf = ({ figure, edition }: { figure: number; edition: string }) => `${figure} ${edition}`;

/** The names of an edition of the figure that is looked at, and of its figure. */
const namesHere = (page: Sheet['page'], item: ReleaseItem): [string, string] | undefined => {
  const edition = page.editions.find(({ id }) => id === item.edition);
  return item.figure === page.id && edition ? [page.name, edition.name] : undefined;
};

/** An edition before the server tells of it. */
function viewOf(names: [string, string] | undefined): ReleaseSetView['items'][number] | undefined {
  if (!names) return undefined;
  const [figure_name, edition_name] = names;
  return {
    figure_name,
    edition_name,
    built: true,
    why: '',
    tall_mm: null,
    parts: [],
    state: 'not',
    proofed_says: '',
    holds: [],
    open: [],
    reports: 0,
    buyers: 0,
    printed: 0,
    failed: 0,
  };
}
