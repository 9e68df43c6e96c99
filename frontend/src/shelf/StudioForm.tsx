import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import type { StudioProfile } from '../app/client';
import { useSayProfile } from '../app/profile';
import { ChoiceField } from '../stations/Fields';

const ORDERS = {
  'day-month-year': '3 December 2026',
  'month-day-year': 'December 3, 2026',
  'year-month-day': '2026-12-03',
} as const;

/** Asks for what holds in the whole studio: its name, its money, how it writes dates. */
export function StudioForm({ profile, close }: { profile: StudioProfile; close: () => void }) {
  const [asked, setAsked] = useState(profile);
  const say = useSayProfile();
  const usable = asked.name?.trim() !== '';
  return (
    <Dialog open onClose={close} aria-labelledby="studio-form" fullWidth maxWidth="xs">
      <form
        className="keys-sheet"
        onSubmit={(event) => {
          event.preventDefault();
          if (usable) say.mutate(asked, { onSuccess: close });
        }}
      >
        <h2 id="studio-form">The studio</h2>
        <div className="fields">
          <TextField
            autoFocus
            size="small"
            label="Name of the studio"
            value={asked.name}
            onChange={(event) => setAsked({ ...asked, name: event.target.value.slice(0, 60) })}
          />
          <TextField
            size="small"
            label="Sign of its money"
            value={asked.currency}
            helperText="Left empty, sums stand without one."
            onChange={(event) => setAsked({ ...asked, currency: event.target.value.slice(0, 8) })}
          />
          <ChoiceField
            label="How it writes dates"
            value={asked.dates ?? 'day-month-year'}
            options={ORDERS}
            change={(dates) => setAsked({ ...asked, dates })}
          />
        </div>
        <ErrorLine says={say.error?.message} />
        <button className="ruled" type="submit" disabled={!usable || say.isPending}>
          Keep it so
        </button>{' '}
        <button className="plain" type="button" onClick={close}>
          <u>leave it</u>
        </button>
      </form>
    </Dialog>
  );
}
