import { useMemo, useState } from 'react';

import type { BuildRecord, Finding, PartRecord, Station, TrialResult } from '../app/client';
import { Bounded } from '../app/Bounded';
import { stepsOf } from '../app/steps';
import type { Value } from '../app/value';
import { Chart } from '../chart/Chart';
import { FirstLook } from '../chart/FirstLook';
import type { HandlesAsked } from '../chart/handles';
import { wallTints } from '../chart/levels';
import type { Box } from '../chart/overlay';
import type { BrushSays } from '../chart/useBrush';
import { stationOf } from '../stations/registry';
import type { StationChart } from '../stations/station';
import { BrushLine } from './BrushLine';
import { Calipers } from './Head';
import { PartLine } from './PartLine';
import type { Picking } from './picking';
import type { Sheet } from './sheet';

const SURVEYED_BY_NONE: StationChart = { walls: true };

interface Props {
  here: Station;
  /** None while nothing is measured. */
  sheet: Sheet | null;
  /** What is drawn while nothing is measured. */
  first: { name: string | null; edition: Sheet['page']['edition']; setup: Sheet['setup'] };
  /** Findings of the station that have a place on the part. */
  findings: { number: number; finding: Finding }[];
  /** Whether a finding is in focus. */
  focused: boolean;
  chosen: number | null;
  choose: (number: number) => void;
  choosePart: (part: string) => void;
  pointed: Value<number | null>;
  picking: Picking;
  box: Box | null;
  handles: HandlesAsked | null;
  /** What a change would make that is looked at before it is made. */
  tried: TrialResult | null;
}

/** The right of the sheet: the chart, what is picked on it, the figure's parts, and their measures. */
export function ChartSide(props: Props) {
  const { here, sheet, first, picking, findings } = props;
  const [brushSays, setBrushSays] = useState<BrushSays | null>(null);
  const shows = stationOf(here)?.chart ?? SURVEYED_BY_NONE;
  const build = sheet?.build ?? null;
  const setup = sheet?.setup ?? first.setup;
  const tints = useMemo(() => setup && wallTints(setup), [setup]);
  const ghosts = useMemo(
    () => (shows.ghosts && build?.ghosts.map(({ display }) => display)) || [],
    [shows, build],
  );
  const references = useMemo(
    () => (shows.references && build ? stepsOf(build, 'refer-to').filter((step) => step.on) : []),
    [shows, build],
  );
  const part = sheet?.part;
  const others = useMemo(
    () =>
      (shows.others && build?.parts.filter((other) => other !== part).map(({ display }) => display)) || [],
    [shows, build, part],
  );
  const open = useMemo(
    () => build?.findings.filter((finding) => finding.part === part?.facts.part) ?? [],
    [build, part],
  );
  const instead = sheet && !props.focused ? shows.instead?.(sheet) : undefined;
  const tried = useMemo(() => triedBeside(props.tried, build, part), [props.tried, build, part]);
  const drawn =
    part &&
    (tried?.part ??
      (instead && !tried ? { ...part, display: instead.display ?? part.display, soundings: null } : part));
  const tinted = instead?.tints ?? (shows.walls || picking.brush?.live ? tints : undefined);
  return (
    <section className="chart-side" aria-label="Chart">
      <Bounded of={drawn?.display ?? ''} what="The chart">
        {drawn ? (
          <Chart
            part={drawn}
            tints={tried ? undefined : tinted}
            findings={findings}
            chosen={props.chosen}
            choose={props.choose}
            pointed={props.pointed.set}
            turns={!!shows.turns}
            grounded={!!shows.grounded}
            inside={shows.inside && !tried && drawn === part ? part.inside_display : null}
            printer={shows.inPrinter ? sheet?.setup?.printer : undefined}
            picked={picking.picked}
            outlined={picking.outlined}
            brush={picking.brush}
            brushSays={setBrushSays}
            stale={sheet?.acts.stale ?? false}
            open={open}
            box={props.box}
            handles={props.handles}
            references={references}
            picks={picking.picks}
            ghosts={ghosts}
            others={others}
            before={tried?.part && tried.part.mesh !== part.mesh ? part.display : null}
            proposed={tried?.proposed ?? NOTHING}
          />
        ) : first.name ? (
          <FirstLook name={first.name} edition={first.edition} tints={shows.walls ? tints : undefined} />
        ) : (
          <div className="chart">
            <p className="empty soft">The chart is drawn when the figure is measured.</p>
          </div>
        )}
      </Bounded>
      {tried && (
        <p className="picking-says" role="status">
          As it would be: not done yet.
        </p>
      )}
      {picking.asked && (
        <p className="picking-says" role="status">
          {picking.asked.says}
          {'count' in picking.asked && `: ${picking.picks.length} of ${picking.asked.count}`}.{' '}
          {brushSays && <BrushLine says={brushSays} setup={setup} />}
          <button className="plain" onClick={picking.leave}>
            <u>leave it</u>
          </button>
        </p>
      )}
      {build && build.parts.length > 1 && (
        <PartLine build={build} here={part?.facts.part} choose={props.choosePart} />
      )}
      {part && (
        <Calipers
          facts={part.facts}
          pointed={props.pointed}
          stale={sheet?.acts.stale ?? false}
          setup={setup}
        />
      )}
    </section>
  );
}

const NOTHING: string[] = [];

/** How the chart shows a trial: the part that is drawn, if it would be another, and what else would be new. */
function triedBeside(tried: TrialResult | null, build: BuildRecord | null, part: PartRecord | undefined) {
  if (!tried || !build || !part) return null;
  const stance = (facts: PartRecord['facts']) => JSON.stringify([facts.stance.up, facts.stance.lift]);
  const isNew = (one: (typeof tried.parts)[number]) =>
    !build.parts.some(
      (old) =>
        old.mesh === one.mesh &&
        stance(old.facts) === stance(one.facts) &&
        !old.supports_display === !one.supports_display,
    );
  const changed = tried.parts.filter(isNew);
  const own = changed.find(({ facts }) => facts.part === part.facts.part);
  return {
    part: own ? { ...part, ...own, tips: [], soundings: null } : null,
    proposed: changed.filter((one) => one !== own).map(({ display }) => display),
  };
}
