import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import type { Listing, ReleaseSetView } from '../../app/client';
import { money } from '../../app/units';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import styles from './release.module.css';
import { useReleaseSets, type Releases } from './useReleaseSets';

const NEW = -1;

/** For each shop what to fill in, ticked when it is done; published by itself where the shop can be asked. */
export function ShopsAct({ page }: Pick<Sheet, 'page'>) {
  const releases = useReleaseSets(page);
  const { chosen } = releases;
  const [at, setAt] = useState(0);
  if (!chosen) return <p className="soft">Begin a set first.</p>;
  const { listings } = chosen.release;
  const shown = listings.length === 0 ? NEW : Math.min(at, listings.length - 1);
  const options = [
    ...listings.map((one, k) => [k, `${one.shop}, ${one.tier}`] as const),
    [NEW, 'another shop or pack'] as const,
  ];
  const looked = at === NEW ? NEW : shown;
  return (
    <>
      <ErrorLine says={releases.error} />
      {listings.length > 0 && (
        <div className="fields">
          <ChoiceField label="Shop and pack" value={looked} options={options} change={setAt} />
        </div>
      )}
      <OneListing
        key={`${chosen.number} ${chosen.revision} ${looked}`}
        set={chosen}
        at={looked}
        releases={releases}
        done={(k) => setAt(k)}
      />
    </>
  );
}

function OneListing({
  set,
  at,
  releases,
  done,
}: {
  set: ReleaseSetView;
  at: number;
  releases: Releases;
  done: (at: number) => void;
}) {
  const known = set.release.listings[at];
  const view = set.listings[at];
  const [shop, setShop] = useState(known?.shop ?? '');
  const [address, setAddress] = useState(known?.address ?? '');
  const [tier, setTier] = useState(known?.tier ?? set.release.tiers.at(-1)?.name ?? '');
  const [title, setTitle] = useState(known?.title || set.release.name);
  const [text, setText] = useState(known?.text || view?.proposed || '');
  const [price, setPrice] = useState(String(known?.price ?? 0));
  const [tags, setTags] = useState(known?.tags.join(', ') ?? '');
  const [sizes, setSizes] = useState(
    (known?.pictures ?? [{ wide: 1200, high: 1200 }]).map(({ wide, high }) => `${wide}x${high}`).join(', '),
  );
  const pictures = [...sizes.matchAll(/(\d+)\s*[x×]\s*(\d+)/g)].map((match) => ({
    wide: Number(match[1]),
    high: Number(match[2]),
  }));
  const amount = numberIn(price, true);
  const can = shop.trim() !== '' && tier !== '' && amount !== null && pictures.length > 0 && !releases.busy;
  const listing: Listing = {
    ticked: {},
    holds: null,
    buyers: 0,
    ...known,
    shop: shop.trim(),
    address: address.trim(),
    tier,
    title: title.trim(),
    text: text.trim(),
    price: amount ?? 0,
    tags: tags
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean),
    pictures,
  };
  const { listings } = set.release;
  const keep = () =>
    can &&
    releases.enter(
      set,
      `listed in ${listing.shop}`,
      { listings: known ? listings.map((one, k) => (k === at ? listing : one)) : [...listings, listing] },
      () => done(known ? at : listings.length),
    );
  const leave = () =>
    releases.enter(set, `not listed in ${listing.shop} any more`, {
      listings: listings.filter((_, k) => k !== at),
    });
  useKeys({ a: keep });
  return (
    <>
      {known && view && <ToFill set={set} at={at} releases={releases} />}
      <h3>{known ? 'What is said there' : 'A shop'}</h3>
      <div className="fields two">
        <TextField size="small" label="Shop" value={shop} onChange={(event) => setShop(event.target.value)} />
        <ChoiceField
          label="Pack"
          value={tier}
          options={set.release.tiers.map((one) => [one.name, one.name] as const)}
          change={setTier}
        />
      </div>
      <div className="fields">
        <TextField
          size="small"
          label="Address, of a shop on this machine"
          placeholder="http://127.0.0.1:8478"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
        <TextField
          size="small"
          label="Title"
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <TextField
          size="small"
          label="Text"
          multiline
          minRows={2}
          maxRows={8}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </div>
      <div className="fields two">
        <NumberField
          label={`Price (${money(0).replace(/[\d.,\s]/g, '') || 'money'})`}
          text={price}
          change={setPrice}
          zero
        />
        <TextField
          size="small"
          label="Pictures, pixels"
          placeholder="1200x1200, 600x400"
          value={sizes}
          onChange={(event) => setSizes(event.target.value)}
        />
      </div>
      <div className="fields">
        <TextField
          size="small"
          label="Tags, with commas between"
          value={tags}
          onChange={(event) => setTags(event.target.value)}
        />
      </div>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={keep}>
          {known ? 'Keep it so' : 'List it there'}
        </button>{' '}
        {known && (
          <button className="plain" disabled={releases.busy} onClick={leave}>
            <u>it is not offered there any more</u>
          </button>
        )}
      </div>
    </>
  );
}

/** The list to fill from, in the shop's order. */
function ToFill({ set, at, releases }: { set: ReleaseSetView; at: number; releases: Releases }) {
  const listing = set.release.listings[at];
  const view = set.listings[at];
  if (!listing || !view) return null;
  if (view.issue == null)
    return <p className="soft">Nothing was packed for {listing.tier} yet: pack an issue.</p>;
  const tick = (what: string, digest: string, done: boolean) => {
    const others = Object.entries(listing.ticked).filter(([name]) => name !== what);
    const ticked = Object.fromEntries(done ? others : [...others, [what, digest]]);
    const all = view.rows.every((row) => (row.what === what ? !done : row.done));
    const holds = what === 'file' && !done ? view.issue : listing.holds;
    releases.enter(set, all ? `all is in place in ${listing.shop}` : `${what} in ${listing.shop}`, {
      listings: set.release.listings.map((one, k) => (k === at ? { ...one, ticked, holds } : one)),
    });
  };
  const pack = set.issues.flatMap(({ packs }) => packs).find((one) => one.tier === listing.tier);
  return (
    <>
      <h3>To fill in, issue {view.issue}</h3>
      <ul className={styles.rows} aria-label="To fill in">
        {view.rows.map((row) => (
          <li key={row.what}>
            <label>
              <input
                type="checkbox"
                checked={row.done}
                disabled={releases.busy}
                onChange={() => tick(row.what, row.digest, row.done)}
              />
              <b>{row.what}</b>
              {row.changed && <span className={styles.held}>changed</span>}
            </label>
            <span className={styles.value}>
              {row.what === 'file' ? (
                <a
                  href={`/api/release-sets/${set.number}/issues/${view.issue}/${encodeURIComponent(listing.tier)}.zip`}
                  download
                >
                  {row.value}
                </a>
              ) : row.what === 'pictures' ? (
                listing.pictures.map((size, k) => (
                  <span key={k} className={styles.pack}>
                    {size.wide} × {size.high}:{' '}
                    {pack?.items.map((item, place) => (
                      <a
                        key={item}
                        href={`/api/release-sets/${set.number}/listings/${view.offer}/picture-${place}-${k}.png`}
                        download
                        aria-label={`${item}, ${size.wide} × ${size.high}`}
                      >
                        {place + 1}{' '}
                      </a>
                    ))}
                  </span>
                ))
              ) : (
                row.value || 'nothing'
              )}
            </span>
          </li>
        ))}
      </ul>
      {listing.address && (
        <p>
          <button
            className="ruled"
            disabled={releases.busy}
            onClick={() => releases.publish(set, view.offer)}
          >
            {releases.publishing
              ? 'Publishing …'
              : listing.holds && listing.holds < view.issue
                ? `Replace issue ${listing.holds} there`
                : 'Publish it there'}
          </button>{' '}
          <button className="ruled" disabled={releases.busy} onClick={() => releases.bring(set, view.offer)}>
            Bring buyers and reports back
          </button>
          {releases.publishing && (
            <span className="soft">
              It goes on by itself if you leave; it can be stopped among the work under way.
            </span>
          )}
        </p>
      )}
    </>
  );
}
