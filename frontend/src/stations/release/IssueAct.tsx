import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { useKeys } from '../../app/useKeys';
import { count } from '../../app/units';
import type { Sheet } from '../../figure/sheet';
import { useReleaseSets } from './useReleaseSets';
import { today } from './words';

/** Packs the next issue of a set. */
export function IssueAct({ page }: Pick<Sheet, 'page'>) {
  const releases = useReleaseSets(page);
  const { chosen } = releases;
  const [date, setDate] = useState(today);
  const filled = chosen?.release.tiers.filter((tier) => tier.items.length > 0) ?? [];
  const held = chosen?.items.flatMap((one) => one.holds) ?? [];
  const can = !!chosen && filled.length > 0 && /^\d{4}-\d\d-\d\d$/.test(date) && !releases.busy;
  const pack = () => can && releases.issue(chosen, date);
  useKeys({ a: pack });
  if (!chosen) return <p className="soft">Begin a set first: what goes out, and in packs for whom.</p>;
  const next = 1 + (chosen.issues[0]?.number ?? 0);
  const unproofed = chosen.items.filter(({ state }) => state !== 'exact').length;
  return (
    <>
      <ErrorLine says={releases.error} />
      <p>
        Issue <b>{next}</b> of {chosen.release.name}: {count(filled.length, 'pack')}, each with its files, a
        guide as PDF and as a page, recipes, and a manifest with the SHA-256 of every file.
      </p>
      {unproofed > 0 && (
        <p>{count(unproofed, 'item')} not proofed in exactly this form: sheet and manifest say so.</p>
      )}
      {held.length > 0 && (
        <p className="error">
          {held[0]?.title}. {held[0]?.why}
        </p>
      )}
      <div className="fields two">
        <TextField
          size="small"
          type="date"
          label="The day it is of"
          value={date}
          slotProps={{ inputLabel: { shrink: true } }}
          onChange={(event) => setDate(event.target.value)}
        />
      </div>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={pack}>
          {releases.packing ? 'Packing …' : `Pack issue ${next}`}
        </button>
      </div>
      {releases.packing && (
        <p className="soft">It goes on by itself if you leave; it can be stopped among the work under way.</p>
      )}
    </>
  );
}
