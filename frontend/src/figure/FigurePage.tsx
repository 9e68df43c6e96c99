import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';

import type { Station } from '../app/client';
import { useJobTurn } from '../app/jobs';
import { createValue } from '../app/value';
import { useKeys } from '../app/useKeys';
import type { HandlesAsked } from '../chart/handles';
import type { Box } from '../chart/overlay';
import { isStation } from '../stations/names';
import { stationOf } from '../stations/registry';
import { acceptance } from './Accepting';
import { CommandSearch } from './CommandSearch';
import { ChartSide } from './ChartSide';
import {
  actKeysOf,
  byName,
  keysOf,
  rowOf,
  turnsOf,
  waysOf,
  type CommandHandlers,
  type SheetState,
} from './commands';
import { Head, whyUnchecked } from './Head';
import { HoldsIn } from './HoldsIn';
import { KeysSheet } from './KeysSheet';
import { StationLine } from './StationLine';
import { nameOf } from './Naming';
import { Note, useChosenRemedy } from './Note';
import { Missing } from './Missing';
import { Notes } from './Notes';
import { useSpot } from './Places';
import { Record } from './Record';
import { usePicking } from './picking';
import { canBeDrawn, proposal } from './propose';
import type { Change, Sheet, Tinting } from './sheet';
import { atSpot, firstOpen, firstSays, shownPart, toldOf } from './shown';
import { triable } from './SideBySide';
import { useChecking } from './SoFar';
import { TrialContext, useTried, type Trial } from './trial';
import { useFigure, useSetups } from './useFigure';
import { useFocus } from './useFocus';
import { useOpenAct } from './useOpenAct';

/** The sheet of one figure: the line, the notes, the chart and the record. */
export default function FigurePage() {
  const params = useParams();
  const number = Number(params.number);
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const edition = search.get('edition') ?? '';
  const acts = useFigure(number, edition);
  const setups = useSetups();
  const { page, build } = acts;
  const picking = usePicking();
  const [previewing, setPreviewing] = useState(false);
  const [besides, setBesides] = useState(false);
  const [swapped, setSwapped] = useState(false);
  const [keysShown, setKeysShown] = useState(false);
  const [actsShown, setActsShown] = useState(false);
  const [turnedTo, setTurnedTo] = useState(0);
  const [pointed] = useState(() => createValue<number | null>(null));
  const [box, setBox] = useState<Box | null>(null);
  const [handles, setHandles] = useState<HandlesAsked | null>(null);
  const [chosenPart, choosePart] = useState<string | null>(null);
  const [onlyHere, setOnlyHere] = useState(false);
  const [pulled, setPulled] = useState(1);
  const [tinting, setTinting] = useState<Tinting>('walls');
  const [seeing, see] = useState<Change | null>(null);
  const job = useJobTurn(page.data?.job);
  const checking = useChecking(job, page.data?.stations ?? []);

  const here = isStation(params.station) ? params.station : firstOpen(build?.findings);
  const [focus, setFocus] = useFocus(build, here);
  const all = build?.findings.map((finding, k) => ({ number: k, finding })) ?? [];
  const findings = all.filter(({ finding }) => finding.station === here);
  // One place more than findings where the station says something of its own, shown after them.
  const folder = stationOf(here);
  const places = findings.length + (findings.length === 0 || folder?.More || folder?.acts ? 1 : 0);
  const place = Math.min(focus, Math.max(places - 1, 0));
  const found = findings[place];
  const [remedy, chooseRemedy] = useChosenRemedy(`${build?.key} ${found?.number}`);
  const [spot, chooseSpot, chooseSpotAt] = useSpot(
    `${build?.key} ${found?.number}`,
    found?.finding.places.length ?? 0,
  );
  const tried = useTried(number, build?.key, seeing);
  const trial = useMemo<Trial>(
    () => ({
      of: seeing && JSON.stringify(seeing),
      see,
      tried: (seeing && tried.data) ?? null,
      error: tried.error?.message ?? '',
    }),
    [seeing, tried.data, tried.error],
  );
  const open = useCallback((address: string) => void navigate(address), [navigate]);

  const part = shownPart(build, chosenPart, found?.finding.part);
  const look = (to: number) => {
    choosePart(null);
    setFocus(Math.max(0, Math.min(places - 1, to)));
    setPreviewing(false);
  };
  const showPlace = (of: string, point: number[]) => {
    const among = ({ finding }: (typeof findings)[number]) =>
      finding.part === of && finding.code === 'thin-wall'
        ? finding.places.findIndex((other) => other.point.join() === point.join())
        : -1;
    const to = findings.findIndex((one) => among(one) >= 0);
    const there = findings[to];
    if (!there) return;
    look(to);
    chooseSpotAt(`${build?.key} ${there.number}`, among(there));
  };
  const setup = setups.find((other) => other.id === page.data?.edition.setting);
  const sheet: Sheet | null =
    page.data && build
      ? {
          page: page.data,
          leaveAct: () => closeAct(),
          build,
          acts,
          busy: acts.busy || acts.stale,
          ...{ setups, setup, part, picking, large: swapped },
          ...{ showBox: setBox, showHandles: setHandles, drawPart: choosePart },
          ...{ pulled, setPulled, tinting, setTinting, showPlace, open },
        }
      : null;
  const stationActs = (sheet && folder?.acts?.(sheet)) ?? [];
  const opened = useOpenAct(stationActs, { station: here, figure: number, changes: page.data?.changes ?? 0 });
  const { act } = opened;
  // While an act is open, it alone is spoken of.
  const current = act ? undefined : found;
  const openAct = (chosen: (typeof stationActs)[number]) => {
    if (chosen.does) return chosen.does();
    picking.leave();
    setPreviewing(false);
    opened.open(chosen);
  };
  const closeAct = () => {
    picking.leave();
    opened.close();
  };
  const go = (station: Station) => {
    setFocus(0);
    setPreviewing(false);
    closeAct();
    void navigate(
      { pathname: `/figures/${number}/${station}`, search: search.toString() },
      { replace: true },
    );
  };
  // The note asks for the same, and draws its section.
  const remedied = useQuery({
    ...proposal({
      figure: number,
      build: build?.key ?? '',
      finding: current?.number ?? 0,
      part: current?.finding.part ?? '',
      spot,
      remedy,
    }),
    enabled: previewing && canBeDrawn(current?.finding.remedies[remedy]),
  });
  const canApply = !!current?.finding.remedies[remedy] && !acts.stale && !acts.busy;
  const apply = () => {
    if (!canApply || !current) return;
    setPreviewing(false);
    acts.apply(current.number, remedy, spot, onlyHere);
  };
  const accept = (reason: string) =>
    current &&
    build &&
    acts.addStep(`accepted ${current.finding.title}`, acceptance(current.finding, reason, build));
  const rename = (name: string) =>
    current && build && acts.addStep(`named a place ${name}`, nameOf(current.finding, name, build));
  const canCompare = !!current && triable(current.finding).length > 1;
  // What is undone is not what the brush has in hand: it is put down first.
  const back = (turn: () => void) => {
    if (picking.brush) picking.leave();
    turn();
  };
  const now: SheetState = {
    here,
    remedies: current?.finding.remedies ?? [],
    canApply,
    canCompare,
    canUndo: !!page.data?.can_undo,
    canRedo: !!page.data?.can_redo,
    hasNext: !act && place + 1 < places,
    hasBefore: !act && place > 0,
    acts: stationActs.length,
    previewing,
    besides,
    swapped,
  };
  const does: CommandHandlers = {
    apply,
    preview: () => now.remedies.length && setPreviewing((before) => !before),
    next: () => !act && look(place + 1),
    before: () => !act && look(place - 1),
    showActsHere: () => {
      closeAct();
      look(places - 1);
      setTurnedTo((times) => times + 1);
    },
    swap: () => setSwapped((before) => !before),
    compareWays: () => canCompare && setBesides((before) => !before),
    turnPlace: (by) => chooseSpot(spot + by),
    turnRemedy: (by) => chooseRemedy(Math.max(0, Math.min(now.remedies.length - 1, remedy + by))),
    showActs: () => setActsShown(true),
    showKeys: () => setKeysShown(true),
    showEditions: () => void navigate(`/figures/${number}/editions?edition=${page.data?.looked ?? ''}`),
    undo: () => now.canUndo && back(acts.undo),
    redo: () => now.canRedo && back(acts.redo),
    leave: () => (picking.asked ? picking.leave() : closeAct()),
    go,
  };
  useKeys({ ...actKeysOf(stationActs, openAct), ...keysOf(does) });

  if (page.isError) return <Missing says={page.error.message} />;
  if (!page.data) return <p className="empty">Unrolling the sheet …</p>;
  const unchecked = page.data.build ? null : whyUnchecked(job);
  const tall = build?.size_mm[2];
  const shown = findings
    .filter(({ finding }) => finding.part === part?.facts.part && finding.where)
    .map((other) => (other === found ? { ...other, finding: atSpot(other.finding, spot) } : other));
  return (
    <div className={`page ${swapped ? 'swapped' : ''}`}>
      <Head page={page.data} tall={tall} setup={setup} unchecked={unchecked} checkAgain={acts.checkAgain} />
      <KeysSheet open={keysShown} close={() => setKeysShown(false)} acts={stationActs} here={here} />
      <CommandSearch
        open={actsShown}
        close={() => setActsShown(false)}
        commands={byName(does, now, {
          stationActs,
          openAct,
          applied: (k) => current && acts.apply(current.number, k, spot, onlyHere),
          chosen: remedy,
          figure: number,
          edition: page.data.looked,
          open,
        })}
      />
      <main className="sheet">
        <StationLine
          stations={page.data.stations}
          findings={build?.findings ?? []}
          unseen={build?.unseen ?? []}
          checking={checking}
          here={here}
          go={go}
        />
        <div className="body">
          <TrialContext value={trial}>
            <Notes
              here={here}
              sheet={sheet}
              placed={current?.finding.where ?? null}
              acts={stationActs}
              act={act}
              openAct={openAct}
              closeAct={closeAct}
              turnedTo={turnedTo}
              checking={checking}
              stale={acts.stale}
              unchecked={unchecked}
              error={acts.error}
              told={toldOf(acts.told, edition, page.data.looked)}
              first={firstSays(!!checking, !!page.data.look && !!folder?.chart?.walls)}
              turns={places > 1 && !current ? turnsOf(does, now) : []}
              row={rowOf(does, now)}
              note={
                build &&
                current && (
                  <Note
                    figure={number}
                    build={build}
                    number={current.number}
                    finding={current.finding}
                    place={`${place + 1} of ${findings.length}`}
                    turns={turnsOf(does, now)}
                    ways={waysOf(does, now)}
                    material={setup?.material.name.toLowerCase() ?? ''}
                    remedy={remedy}
                    chooseRemedy={chooseRemedy}
                    apply={apply}
                    previewing={previewing}
                    besides={besides && canCompare}
                    spot={spot}
                    chooseSpot={chooseSpot}
                    large={swapped}
                    accept={accept}
                    heldIn={page.data.editions.find(({ id }) => id === page.data.looked)?.held_in ?? null}
                    rename={rename}
                    holds={
                      page.data.editions.length > 1 && (
                        <HoldsIn page={page.data} onlyHere={onlyHere} set={setOnlyHere} />
                      )
                    }
                  />
                )
              }
            />
          </TrialContext>
          <ChartSide
            here={here}
            sheet={sheet}
            first={{ name: page.data.look ?? null, edition: page.data.edition, setup }}
            findings={shown}
            focused={!!current}
            chosen={current?.number ?? null}
            choose={(to) => {
              closeAct();
              look(findings.findIndex((other) => other.number === to));
            }}
            {...{ choosePart, pointed, picking, box, handles }}
            tried={(previewing && remedied.data?.tried) || trial.tried}
          />
        </div>
        <Record
          page={page.data}
          steps={build?.steps ?? []}
          height={tall}
          setup={setup}
          editStep={acts.editStep}
          switchStep={acts.switchStep}
          holdIn={(step, editions) => acts.setFields('held in other editions', step, { editions })}
          moveStep={acts.moveStep}
          setEdition={acts.setEdition}
          undo={does.undo}
          redo={does.redo}
          busy={acts.busy}
        />
      </main>
    </div>
  );
}
