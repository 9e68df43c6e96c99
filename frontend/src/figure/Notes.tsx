import type { ReactNode } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import type { Finding, Station } from '../app/client';
import { Bounded } from '../app/Bounded';
import { STATION_NAMES } from '../stations/names';
import { stationOf } from '../stations/registry';
import type { StationAct } from '../stations/station';
import { ActList } from './ActList';
import { KeyRow, type RowKey } from './KeyRow';
import { OpenAct } from './OpenAct';
import { Gaps } from './Gaps';
import { SheetContext, type Sheet } from './sheet';
import { SoFar, type Checking } from './SoFar';

interface Props {
  here: Station;
  /** None while nothing is measured. */
  sheet: Sheet | null;
  /** The note of the finding in focus. */
  note: ReactNode;
  /** Whether the finding in focus has a place, so that its note speaks alone. */
  placed: Finding['where'];
  acts: StationAct[];
  act: StationAct | null;
  openAct: (act: StationAct) => void;
  closeAct: () => void;
  turnedTo: number;
  checking: Checking | null;
  stale: boolean;
  /** Why it is not checked. */
  unchecked: string | null;
  error: string;
  /** What was done to which editions. */
  told: string;
  /** What is said while nothing is measured. */
  first: string;
  /** Keys that go through what is found, where no note shows them. */
  turns: RowKey[];
  row: RowKey[];
}

/** The left of the sheet: a finding, or what the station says; then what can be done here; or one act, alone. */
export function Notes(props: Props) {
  const { here, sheet, note, placed, act, checking, stale, unchecked } = props;
  const folder = stationOf(here);
  const gaps = sheet?.build.unseen.filter((gap) => gap.station === here) ?? [];
  const Report = folder?.Report;
  const More = folder?.More;
  const says = sheet && !placed && gaps.length === 0;
  return (
    <aside className="notes" aria-label="Notes" aria-busy={stale}>
      {!act && <KeyRow keys={props.turns} />}
      <div className={`scroll ${sheet && stale ? 'stale' : ''}`}>
        <ErrorLine says={props.error} />
        {props.told && <p role="status">{props.told}</p>}
        {checking && <SoFar here={here} checking={checking} />}
        {sheet && stale && (
          <p className="stale-says" role="status">
            {unchecked ? 'What changed is not checked; below is from before.' : 'From before the change:'}
          </p>
        )}
        {!sheet && <p className="soft">{props.first}</p>}
        <Bounded of={`${here} ${sheet?.build.key} ${act?.name}`} what={STATION_NAMES[here]}>
          <SheetContext value={sheet}>
            {sheet && act ? (
              <OpenAct key={act.name} act={act} close={props.closeAct} />
            ) : (
              <>
                <Gaps unseen={gaps} />
                {note}
                {says && Report && <Report {...sheet} />}
                <ActList acts={props.acts} open={props.openAct} turnedTo={props.turnedTo} />
                {says && More && <More {...sheet} />}
              </>
            )}
          </SheetContext>
        </Bounded>
      </div>
      <KeyRow keys={props.row} />
    </aside>
  );
}
