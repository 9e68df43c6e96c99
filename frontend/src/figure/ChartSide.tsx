import { useMemo, useState } from 'react';

import type { BuildRecord, Finding, PartRecord, Station, TrialResult } from '../app/client';
import { Bounded } from '../app/Bounded';
import { stepsOf } from '../app/steps';
import { mm } from '../app/units';
import type { Value } from '../app/value';
import { Chart } from '../chart/Chart';
import { FirstLook } from '../chart/FirstLook';
import type { HandlesAsked } from '../chart/handles';
import { wallTints } from '../chart/levels';
import type { Moves } from '../chart/moved';
import type { Box, Label } from '../chart/overlay';
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
  const beside = useMemo(
    () => (shows.others && build?.parts.filter((other) => other !== part)) || [],
    [shows, build, part],
  );
  const others = useMemo(
    () => beside.map((other) => shows.othersDrawn?.(other) ?? other.display),
    [beside, shows],
  );
  const pulled = shows.apart ? (sheet?.pulled ?? 0) : 0;
  const moves = useMemo(
    () => beside.map((other) => movedFrom(build, part, other, pulled)),
    [build, part, beside, pulled],
  );
  const labels = useMemo(
    () =>
      shows.apart && build && build.parts.length > 1
        ? build.parts.map((one, k) => partLabel(one, k, movedFrom(build, part, one, pulled)))
        : NO_LABELS,
    [shows, build, part, pulled],
  );
  const open = useMemo(
    () => build?.findings.filter((finding) => finding.part === part?.facts.part) ?? [],
    [build, part],
  );
  const instead = sheet && (shows.always || !props.focused) ? shows.instead?.(sheet) : undefined;
  const tried = useMemo(() => triedBeside(props.tried, build, part), [props.tried, build, part]);
  const drawn =
    part &&
    (tried?.part ??
      (instead && !tried ? { ...part, display: instead.display ?? part.display, soundings: null } : part));
  const tinted = instead?.tints ?? (shows.walls || picking.brush?.live ? tints : undefined);
  const chooseLabel = (key: number) => {
    const named = build?.parts[-1 - key];
    if (named) props.choosePart(named.facts.part);
  };
  return (
    <section className="chart-side" aria-label="Chart">
      <Bounded of={drawn?.display ?? ''} what="The chart">
        {drawn ? (
          <Chart
            part={drawn}
            tints={tried ? undefined : tinted}
            findings={labels.length ? findings.filter(({ number }) => number === props.chosen) : findings}
            chosen={props.chosen}
            choose={(key) => (key < 0 ? chooseLabel(key) : props.choose(key))}
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
            others={tried?.instead ? NOTHING : others}
            moves={moves}
            labels={tried ? NO_LABELS : labels}
            fades={!!tried?.instead}
            before={tried?.part && tried.part.mesh !== part.mesh ? part.display : null}
            proposed={tried?.proposed ?? NOTHING}
            proposedMoves={tried?.moves ?? NO_MOVES}
          />
        ) : first.name ? (
          <FirstLook name={first.name} edition={first.edition} tints={shows.walls ? tints : undefined} />
        ) : (
          <div className="chart">
            <p className="empty soft">The chart is drawn when the figure is measured.</p>
          </div>
        )}
      </Bounded>
      {shows.apart && sheet && sheet.build.assembly.joints?.length ? (
        <label className="pulled">
          pulled apart
          <input
            type="range"
            min={0}
            max={1}
            step={0.05}
            value={sheet.pulled}
            onChange={(event) => sheet.setPulled(Number(event.target.value))}
          />
        </label>
      ) : null}
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
          meant={tried ? 'nothing' : instead?.display ? (tinted?.palette?.names ?? 'nothing') : 'wall'}
          stale={sheet?.acts.stale ?? false}
          setup={setup}
        />
      )}
    </section>
  );
}

const NOTHING: string[] = [];
const NO_LABELS: Label[] = [];
const NO_MOVES: Moves = [];

/** How far another part is drawn from a part that stays where it is, when the figure is pulled apart so far. */
function movedFrom(
  build: BuildRecord | null,
  part: PartRecord | undefined,
  other: PartRecord,
  pulled: number,
): [number, number, number] {
  const apart = build?.assembly.apart ?? {};
  const [x, y, z] = apart[other.facts.part] ?? [0, 0, 0];
  const [a, b, c] = (part && apart[part.facts.part]) ?? [0, 0, 0];
  return [(x - a) * pulled, (y - b) * pulled, (z - c) * pulled];
}

/** What the margin says of a part; its key is below zero, where those of findings are not. */
function partLabel({ facts, fits }: PartRecord, number: number, move: [number, number, number]): Label {
  const middle = facts.low_mm.map((low, axis) => (low + (facts.size_mm[axis] ?? 0) / 2) / facts.factor);
  const [x, y, z] = middle.map((value, axis) => value + (move[axis] ?? 0));
  return {
    key: -1 - number,
    point: [x ?? 0, y ?? 0, z ?? 0],
    title: `${number + 1} ${facts.called}`,
    says: `${mm(Math.max(...facts.size_mm))} mm${fits[0] ? `, fits ${fits[0]}` : ''}`,
  };
}

const NOWHERE: [number, number, number] = [0, 0, 0];

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
  // A cut leaves nothing of the part by its name: its pieces are shown in its place.
  const instead = !tried.parts.some(({ facts }) => facts.part === part.facts.part);
  const beside = changed.filter((one) => one !== own);
  return {
    instead,
    moves: beside.map(({ apart }) => apart ?? NOWHERE),
    part: own ? { ...part, ...own, tips: [], soundings: null } : null,
    proposed: beside.map(({ display }) => display),
  };
}
