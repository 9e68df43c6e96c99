import { ErrorLine } from '../../app/ErrorLine';
import { PutBack } from '../../app/PutBack';
import type { ReleaseSetView } from '../../app/client';
import { bytes, count, day } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { CAUSES } from '../proof/words';
import styles from './release.module.css';
import { useReleaseSets, type Releases } from './useReleaseSets';
import { endingSaid, inShop, itemSaid, PROOFED } from './words';

/** What goes out with this figure in it, to whom, and what came back. */
export function Sets({ page }: Pick<Sheet, 'page'>) {
  const releases = useReleaseSets(page);
  const { all, chosen, loading, error } = releases;
  return (
    <>
      <ErrorLine says={error} />
      <h2>{chosen ? heading(chosen) : loading ? 'Looking for release sets …' : 'In no release set yet'}</h2>
      {!chosen && !loading && (
        <>
          <p className="why">
            A set holds editions that go out together, in a pack for each kind of buyer. It remembers what was
            in every issue, where it is offered, and what buyers report.
          </p>
          <p>{page.editions.find(({ id }) => id === page.looked)?.proofed}</p>
        </>
      )}
      {releases.unreadable > 0 && (
        <p className="soft">
          {count(releases.unreadable, 'set')} that another version of Ulvet wrote cannot be read by this one:
          kept, and not shown.
        </p>
      )}
      {all.length > 1 && (
        <p className={styles.sets} role="group" aria-label="Release sets">
          {all.map((one) => (
            <button
              key={one.number}
              className="plain"
              aria-pressed={one === chosen}
              onClick={() => releases.choose(one.number)}
            >
              {one.release.name}
            </button>
          ))}
        </p>
      )}
      <PutBack back={releases.back} what="the set that was put away" />
      {chosen && <OneSet set={chosen} releases={releases} />}
    </>
  );
}

/** What stands out about a set, in a line. */
function heading({ release, items, issues, joined, listings }: ReleaseSetView): string {
  const open = joined.filter((one) => one.open.length > 0).length;
  const behind = listings.filter(({ issue, rows }) => issue !== null && rows.some((row) => !row.done)).length;
  const held = items.filter((one) => one.why || one.holds.length > 0).length;
  if (held) return `${release.name}: ${count(held, 'item')} cannot go out yet`;
  if (open) return `${release.name}: ${count(open, 'report')} to answer`;
  if (behind) return `${release.name}: something to fill in at ${count(behind, 'shop')}`;
  if (issues[0]) return `${release.name}: issue ${issues[0].number} is out, nothing to do`;
  return `${release.name}: ready to pack`;
}

function OneSet({ set, releases }: { set: ReleaseSetView; releases: Releases }) {
  const { release } = set;
  return (
    <section aria-label={release.name}>
      <div className={styles.wide}>
        <table className={`limbs ${styles.items}`}>
          <thead>
            <tr>
              <th scope="col">what goes out</th>
              {release.tiers.map((tier) => (
                <th scope="col" key={tier.name}>
                  {tier.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {release.items.map((item, at) => (
              <tr key={at}>
                <th scope="row">
                  {itemSaid(item, set.items[at])}
                  <br />
                  <ItemState view={set.items[at]} />
                </th>
                {release.tiers.map((tier) => (
                  <td key={tier.name}>{tier.items.includes(at) ? 'in it' : '–'}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Issues set={set} />
      <Shops set={set} />
      <Reports set={set} />
      <p className={styles.entries}>
        <button
          className="plain"
          disabled={releases.busy || !set.can_undo}
          onClick={() => releases.undo(set)}
        >
          <u>take the last entry back</u>
        </button>
        <button
          className="plain"
          disabled={releases.busy || !set.can_redo}
          onClick={() => releases.redo(set)}
        >
          <u>make it again</u>
        </button>
        {set.issues.length === 0 && (
          <button className="plain" disabled={releases.busy} onClick={() => releases.drop(set)}>
            <u>put this set away</u>
          </button>
        )}
      </p>
    </section>
  );
}

const HOLDS_SHOWN = 2;

function ItemState({ view }: { view: ReleaseSetView['items'][number] | undefined }) {
  if (!view) return null;
  if (view.why) return <span className={styles.held}>{view.why}</span>;
  const came = view.reports > 0 && `; ${count(view.reports, 'report')} of ${count(view.buyers, 'buyer')}`;
  const failed = view.printed > 0 && `; ${view.failed} of ${view.printed} copies failed in proofs`;
  return (
    <>
      <span className="soft">
        {PROOFED[view.state]}
        {failed}
        {came}
      </span>
      {view.holds.slice(0, HOLDS_SHOWN).map((hold) => (
        <span key={hold.code} className={styles.held}>
          {hold.title}. {hold.why}
        </span>
      ))}
      {view.holds.length > HOLDS_SHOWN && (
        <span className={styles.held}>
          And {view.holds.length - HOLDS_SHOWN} more that stop it: mend each, or say a word to buyers.
        </span>
      )}
    </>
  );
}

/** The issues that were made, with who needs the newest. */
function Issues({ set }: { set: ReleaseSetView }) {
  if (set.issues.length === 0) return null;
  return (
    <>
      <h3>Issues</h3>
      <ol className="plain-list" aria-label="Issues">
        {set.issues.map((issue, k) => (
          <li key={issue.number}>
            <b>{issue.number}</b>, {day(`${issue.date}T12:00:00`)}:{' '}
            {issue.packs.map((pack) => (
              <span key={pack.tier} className={styles.pack}>
                <a
                  href={`/api/release-sets/${set.number}/issues/${issue.number}/${encodeURIComponent(pack.tier)}.zip`}
                  download={pack.file_name}
                  title={`SHA-256 ${pack.sha256}`}
                >
                  {pack.tier}
                </a>
                , {bytes(pack.bytes)}
              </span>
            ))}
            {k === 0 && <Needed packs={issue.packs} />}
          </li>
        ))}
      </ol>
    </>
  );
}

function Needed({ packs }: { packs: ReleaseSetView['issues'][number]['packs'] }) {
  const changes = packs.flatMap((pack) => pack.correction?.items ?? []);
  const told = new Map(changes.map((one) => [one.item, one]));
  const needed = [...told.values()].filter(({ state }) => state !== 'same');
  if (!told.size) return null;
  return (
    <ul className="plain-list" aria-label="Who needs it">
      {needed.length === 0 && <li className="soft">Nobody needs it: every file is the same.</li>}
      {needed.map((one) => (
        <li key={one.item}>{said(one)}</li>
      ))}
    </ul>
  );
}

type ItemChange = NonNullable<
  ReleaseSetView['issues'][number]['packs'][number]['correction']
>['items'][number];

function said({ item, state, changed, added, gone }: ItemChange): string {
  if (state === 'new') return `${item} is new.`;
  if (state === 'gone') return `${item} goes out no more.`;
  if (state === 'words') return `${item}: no new file, other words.`;
  const parts = [
    changed.length ? `${changed.join(', ')} changed` : '',
    added.length ? `${added.join(', ')} new` : '',
    gone.length ? `${gone.join(', ')} left out` : '',
  ].filter(Boolean);
  return `Whoever prints ${item} needs it: ${parts.join('; ')}.`;
}

/** In which shop what is in place, at a glance. */
function Shops({ set }: { set: ReleaseSetView }) {
  const { release, listings } = set;
  if (release.listings.length === 0) return null;
  return (
    <>
      <h3>Shops</h3>
      <ul className="plain-list" aria-label="Shops">
        {release.listings.map((listing, k) => {
          const view = listings[k];
          return (
            <li key={view?.offer ?? k}>
              <b>
                {listing.shop}, {listing.tier}
              </b>
              : {inShop(listing.holds ?? null, view)}
              {listing.buyers > 0 && <span className="soft">; {count(listing.buyers, 'buyer')}</span>}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** What buyers report, the same things joined. */
function Reports({ set }: { set: ReleaseSetView }) {
  if (set.joined.length === 0) return null;
  const byId = new Map(set.release.reports.map((one) => [one.id, one]));
  return (
    <>
      <h3>Reports</h3>
      <ul className="plain-list" aria-label="Reports">
        {set.joined.map((group) => {
          const last = byId.get(group.ids[group.ids.length - 1] ?? '');
          const called = set.items.flatMap(({ parts }) => parts).find(([part]) => part === group.part)?.[1];
          return (
            <li key={group.ids[0]}>
              <b>
                {called ?? (group.figure === null ? 'not of this set' : 'the whole')}, {CAUSES[group.cause]}
              </b>
              : {count(group.ids.length, 'buyer')}; {last ? endingSaid(last) : ''}
              {last?.says && <span className="soft"> “{last.says}”</span>}
            </li>
          );
        })}
      </ul>
    </>
  );
}
