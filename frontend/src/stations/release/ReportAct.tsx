import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import type { BuyerReport, Cause, ReleaseSetView } from '../../app/client';
import type { Pick as PickedPlace } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField } from '../Fields';
import { CAUSES } from '../proof/words';
import styles from './release.module.css';
import { useReleaseSets, type Releases } from './useReleaseSets';
import { ENDINGS, endingSaid, itemSaid, today } from './words';

/** Reports of buyers: typed in, looked at on the figure, and ended. */
export function ReportAct(sheet: Pick<Sheet, 'page' | 'part' | 'picking' | 'showPlace'>) {
  const releases = useReleaseSets(sheet.page);
  const { chosen } = releases;
  if (!chosen) return <p className="soft">Begin a set first.</p>;
  return (
    <>
      <ErrorLine says={releases.error} />
      <Open set={chosen} releases={releases} showPlace={sheet.showPlace} />
      {chosen.issues.length === 0 ? (
        <p className="soft">Nothing went out yet: pack an issue, then enter what buyers say.</p>
      ) : (
        <Enter key={chosen.release.reports.length} set={chosen} releases={releases} {...sheet} />
      )}
    </>
  );
}

/** Reports that nobody has ended, the same things together. */
function Open({
  set,
  releases,
  showPlace,
}: { set: ReleaseSetView; releases: Releases } & Pick<Sheet, 'showPlace'>) {
  const open = set.joined.filter((group) => group.open.length > 0);
  const [at, setAt] = useState(0);
  const [kind, setKind] = useState<keyof typeof ENDINGS>('answer');
  const [says, setSays] = useState('');
  const group = open[Math.min(at, open.length - 1)];
  if (!group) return null;
  const reports = set.release.reports.filter((one) => group.ids.includes(one.id));
  const called = set.items.flatMap(({ parts }) => parts).find(([part]) => part === group.part)?.[1];
  const { point } = group;
  const end = () => {
    const ending = {
      kind,
      says: says.trim(),
      issue: kind === 'answer' ? null : 1 + (set.issues[0]?.number ?? 0),
    };
    releases.enter(
      set,
      `${group.open.length} of the reports: ${ENDINGS[kind]}`,
      {
        reports: set.release.reports.map((one) => (group.open.includes(one.id) ? { ...one, ending } : one)),
        ...(kind === 'guide'
          ? { guide: [...set.release.guide, { says: says.trim(), report: group.open[0] ?? '' }] }
          : {}),
      },
      () => setSays(''),
    );
  };
  return (
    <>
      <h3>To be ended</h3>
      <div className="fields">
        <ChoiceField
          label="What buyers report"
          value={Math.min(at, open.length - 1)}
          options={open.map(
            (one, k) => [k, `${CAUSES[one.cause]}, ${one.open.length} open of ${one.ids.length}`] as const,
          )}
          change={setAt}
        />
      </div>
      <ul className={styles.rows} aria-label="What was reported">
        {reports.map((one) => (
          <li key={one.id}>
            <b>{called ?? 'the whole'}</b>, issue {one.issue}
            {one.shop && `, ${one.shop}`}
            {one.setting && `, ${one.setting}`}: {one.says || 'no words'}{' '}
            <span className="soft">{endingSaid(one)}</span>
          </li>
        ))}
      </ul>
      {point && group.part && (
        <p>
          <button className="plain" onClick={() => showPlace(group.part, point)}>
            <u>show the place on the figure</u>
          </button>
        </p>
      )}
      <div className="fields two">
        <ChoiceField label="It ends in" value={kind} options={ENDINGS} change={setKind} />
        <TextField
          size="small"
          label={kind === 'guide' ? 'The sentence' : 'What is answered'}
          value={says}
          slotProps={{ htmlInput: { maxLength: 400 } }}
          onChange={(event) => setSays(event.target.value)}
        />
      </div>
      <p>
        <button className="ruled" disabled={!says.trim() || releases.busy} onClick={end}>
          End {group.open.length > 1 ? `these ${group.open.length} reports` : 'this report'}
        </button>
      </p>
    </>
  );
}

/** Types a report in. */
function Enter({
  set,
  releases,
  page,
  part,
  picking,
}: { set: ReleaseSetView; releases: Releases } & Pick<Sheet, 'page' | 'part' | 'picking'>) {
  const [item, setItem] = useState(0);
  const [issue, setIssue] = useState(set.issues[0]?.number ?? 1);
  const [cause, setCause] = useState<Cause>('unknown');
  const [setting, setSetting] = useState('');
  const [says, setSays] = useState('');
  const [at, setAt] = useState<PickedPlace | null>(null);
  const here = set.release.items[item]?.figure === page.id;
  const pick = () =>
    picking.ask({ says: 'Pick where the buyer says it is', count: 1, then: ([one]) => setAt(one ?? null) });
  const keep = () => {
    const used = new Set(set.release.reports.map(({ id }) => id));
    let number = set.release.reports.length + 1;
    while (used.has(`typed-${number}`)) number += 1;
    const report: BuyerReport = {
      id: `typed-${number}`,
      came: today(),
      shop: '',
      issue,
      item,
      part: here && at && part ? part.facts.part : '',
      point: at ? at.point : null,
      cause,
      setting: setting.trim(),
      says: says.trim(),
      ending: null,
    };
    releases.enter(set, 'a report came', { reports: [...set.release.reports, report] });
  };
  return (
    <>
      <h3>A report came</h3>
      <div className="fields two">
        <ChoiceField
          label="On what"
          value={item}
          options={set.release.items.map((one, k) => [k, itemSaid(one, set.items[k])] as const)}
          change={setItem}
        />
        <ChoiceField
          label="From issue"
          value={issue}
          options={set.issues.map(({ number }) => [number, String(number)] as const)}
          change={setIssue}
        />
      </div>
      <div className="fields two">
        <ChoiceField label="What went wrong" value={cause} options={CAUSES} change={setCause} />
        <TextField
          size="small"
          label="Their printer and material"
          value={setting}
          slotProps={{ htmlInput: { maxLength: 400 } }}
          onChange={(event) => setSetting(event.target.value)}
        />
      </div>
      <div className="fields">
        <TextField
          size="small"
          label="What they say"
          value={says}
          slotProps={{ htmlInput: { maxLength: 400 } }}
          onChange={(event) => setSays(event.target.value)}
        />
      </div>
      <p>
        <button className="plain" disabled={!here} onClick={picking.asked ? picking.leave : pick}>
          <u>{picking.asked ? 'leave it' : at ? 'pick another place' : 'pick the place on the figure'}</u>
        </button>{' '}
        {at && <span className="soft">a place is picked</span>}
      </p>
      <p>
        <button className="ruled" disabled={releases.busy || set.release.items.length === 0} onClick={keep}>
          Enter the report
        </button>
      </p>
    </>
  );
}
