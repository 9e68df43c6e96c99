import { useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';

import type { BuildRecord, Finding, Station } from '../app/client';
import { stepsOf } from '../app/steps';
import { Bounded } from '../app/Bounded';
import { useJobTurn } from '../app/jobs';
import { createValue } from '../app/value';
import { useKeys } from '../app/useKeys';
import { Chart } from '../chart/Chart';
import type { Box } from '../chart/overlay';
import { FirstLook } from '../chart/FirstLook';
import { capturedTints, DETAIL_TINTS, wallTints } from '../chart/levels';
import type { HandlesAsked } from '../chart/handles';
import type { BrushSays } from '../chart/useBrush';
import { isStation, STATION_NAMES } from '../stations/names';
import type { Tinting } from '../stations/GaugePanel';
import { pointedAt } from '../stations/StandPanel';
import { acceptance } from './Accepting';
import { Acts, type Act } from './Acts';
import { BrushLine } from './BrushLine';
import { actsOf, keysOf, rowOf, turnsOf, waysOf, type Does, type Now } from './commands';
import { Calipers, Head, whyUnchecked } from './Head';
import { KeyRow } from './KeyRow';
import { KeysSheet } from './KeysSheet';
import { Line } from './Line';
import { nameOf } from './Naming';
import { Note, useChosenRemedy } from './Note';
import { Gaps, Panel } from './Panel';
import { PartLine } from './PartLine';
import { useSpot } from './Places';
import { Record } from './Record';
import { usePicking } from './picking';
import { triable } from './SideBySide';
import { SoFar, useChecking } from './SoFar';
import { useBench, useFigure } from './useFigure';

/** The sheet of one figure: the line, the notes, the chart and the record. */
export default function FigurePage() {
  const params = useParams();
  const number = Number(params.number);
  const navigate = useNavigate();
  const acts = useFigure(number);
  const { printers, materials } = useBench();
  const { page, build, addStep } = acts;
  const picking = usePicking();
  const [focus, setFocus] = useState(0);
  const [previewing, setPreviewing] = useState(false);
  const [besides, setBesides] = useState(false);
  const [swapped, setSwapped] = useState(false);
  const [keysShown, setKeysShown] = useState(false);
  const [actsShown, setActsShown] = useState(false);
  const [pointed] = useState(() => createValue<number | null>(null));
  const [box, setBox] = useState<Box | null>(null);
  const [handles, setHandles] = useState<HandlesAsked | null>(null);
  const [brushSays, setBrushSays] = useState<BrushSays | null>(null);
  const [chosenPart, choosePart] = useState<string | null>(null);
  const job = useJobTurn(page.data?.job);
  const checking = useChecking(job, page.data?.stations ?? []);

  const here = isStation(params.station) ? params.station : firstOpen(build?.findings);
  const all = build?.findings.map((finding, k) => ({ number: k, finding })) ?? [];
  const findings = all.filter(({ finding }) => finding.station === here);
  // One place more than findings where the station has a sheet of its own, shown after them.
  const hasSheet = ['bring-in', 'size', 'gauge', 'stand', 'layers', 'release'].includes(here);
  const places = findings.length + (hasSheet ? 1 : 0);
  const place = Math.min(focus, Math.max(places - 1, 0));
  const current = findings[place];
  const [remedy, chooseRemedy] = useChosenRemedy(`${build?.key} ${current?.number}`);
  const [tinting, setTinting] = useState<Tinting>('walls');
  const [spot, chooseSpot, chooseSpotAt] = useSpot(
    `${build?.key} ${current?.number}`,
    current?.finding.places.length ?? 0,
  );
  const material = materials.find((other) => other.id === page.data?.edition.material);
  const tints = useMemo(() => material && wallTints(material), [material]);
  const untinted = ['bring-in', 'mend', 'stand', 'layers'].includes(here);
  const printer = printers.find((other) => other.id === page.data?.edition.printer);
  const ghosts = useMemo(
    () => (['bring-in', 'size'].includes(here) ? (build?.ghosts.map((ghost) => ghost.display) ?? []) : []),
    [here, build],
  );

  const references = useMemo(
    () => (here === 'bring-in' ? (build ? stepsOf(build, 'refer-to').filter((step) => step.on) : []) : []),
    [here, build],
  );

  const look = (to: number) => {
    choosePart(null);
    setFocus(Math.max(0, Math.min(places - 1, to)));
    setPreviewing(false);
  };
  /** Stays with the tools, whatever is found next. */
  const tools = () => {
    choosePart(null);
    setFocus(Number.MAX_SAFE_INTEGER);
    setPreviewing(false);
  };
  const go = (station: Station) => {
    setFocus(0);
    setPreviewing(false);
    picking.leave();
    void navigate(`/figures/${number}/${station}`, { replace: true });
  };
  const canApply = !!current?.finding.remedies[remedy] && !acts.stale && !acts.busy;
  const apply = () => {
    if (!canApply || !current) return;
    setPreviewing(false);
    acts.apply(current.number, remedy, spot);
  };
  const accept = (reason: string) =>
    current &&
    build &&
    acts.addStep(`accepted ${current.finding.title}`, acceptance(current.finding, reason, build));
  const rename = (name: string) =>
    current && build && acts.addStep(`named a place ${name}`, nameOf(current.finding, name, build));
  const showPlace = (part: string, point: number[]) => {
    const among = ({ finding }: (typeof findings)[number]) =>
      finding.part === part && finding.code === 'thin-wall'
        ? finding.places.findIndex((place) => place.point.join() === point.join())
        : -1;
    const to = findings.findIndex((one) => among(one) >= 0);
    const found = findings[to];
    if (!found) return;
    look(to);
    chooseSpotAt(`${build?.key} ${found.number}`, among(found));
  };
  const canCompare = !!current && triable(current.finding).length > 1;
  // What is undone is not what the brush has in hand: it is put down first.
  const back = (turn: () => void) => {
    if (picking.brush) picking.leave();
    turn();
  };
  const pointAt = () =>
    picking.asked
      ? picking.leave()
      : picking.ask({
          says: 'Click the side of the figure that shows',
          count: 1,
          then: ([pick]) => pick && addStep('pointed at the side that shows', pointedAt(pick.normal)),
        });
  const now: Now = {
    here,
    remedies: current?.finding.remedies ?? [],
    canApply,
    canCompare,
    canUndo: !!page.data?.can_undo,
    canRedo: !!page.data?.can_redo,
    hasNext: place + 1 < places,
    hasBefore: place > 0,
    hasTools: hasSheet && !!current,
    previewing,
    besides,
    swapped,
  };
  const does: Does = {
    apply,
    preview: () => now.remedies.length && setPreviewing((before) => !before),
    next: () => look(place + 1),
    before: () => look(place - 1),
    tools,
    swap: () => setSwapped((before) => !before),
    compareWays: () => canCompare && setBesides((before) => !before),
    turnPlace: (by) => chooseSpot(spot + by),
    turnRemedy: (by) => chooseRemedy(Math.max(0, Math.min(now.remedies.length - 1, remedy + by))),
    showActs: () => setActsShown(true),
    showKeys: () => setKeysShown(true),
    undo: () => now.canUndo && back(acts.undo),
    redo: () => now.canRedo && back(acts.redo),
    leave: picking.leave,
    go,
  };
  useKeys(keysOf(does));

  const unchecked = page.data && !page.data.build ? whyUnchecked(job) : null;
  const possible: Act[] = [
    ...actsOf(does, now, (k) => current && acts.apply(current.number, k, spot), remedy),
    { name: 'Line it up with others', act: () => void navigate(`/line-up?figures=${number}`) },
    { name: 'The shelf of bits', act: () => void navigate(`/bits?figure=${number}`) },
    { name: 'Versions', act: () => void navigate(`/figures/${number}/versions`) },
    { name: 'Back to the shelf', act: () => void navigate('/') },
  ];
  if (page.isError) return <Missing says={page.error.message} />;
  if (!page.data) return <p className="empty">Unrolling the sheet …</p>;
  const part = shownPart(build, chosenPart, current?.finding.part);
  const facts = part?.facts;
  const others =
    here === 'bring-in'
      ? (build?.parts.filter((other) => other !== part).map((other) => other.display) ?? [])
      : [];
  const open = build?.findings.filter((finding) => finding.part === facts?.part) ?? [];
  const tall = build?.size_mm[2];
  const shown = findings
    .filter(({ finding }) => finding.part === facts?.part && finding.where)
    .map((other) => (other === current ? { ...other, finding: atSpot(other.finding, spot) } : other));
  const other =
    here === 'bring-in' && part?.captured && !current
      ? { tints: capturedTints(part.captured.reach * part.facts.factor), display: part.captured_display }
      : here === 'gauge' && tinting === 'detail' && part?.detail_display && !current
        ? { tints: DETAIL_TINTS, display: part.detail_display }
        : undefined;
  return (
    <div className={`page ${swapped ? 'swapped' : ''}`}>
      <Head
        page={page.data}
        tall={tall}
        printer={printer}
        unchecked={unchecked}
        checkAgain={acts.checkAgain}
        goSize={() => go('size')}
      />
      <KeysSheet open={keysShown} close={() => setKeysShown(false)} />
      <Acts open={actsShown} close={() => setActsShown(false)} acts={possible} />
      <main className="sheet">
        <Line
          stations={page.data.stations}
          findings={build?.findings ?? []}
          unseen={build?.unseen ?? []}
          checking={checking}
          here={here}
          go={go}
        />
        <div className="body">
          <aside className="notes" aria-label="Notes" aria-busy={acts.stale}>
            {places > 1 && !current && <KeyRow keys={turnsOf(does, now)} />}
            <div className={`scroll ${build && acts.stale ? 'stale' : ''}`}>
              {acts.error && (
                <p className="error" role="alert">
                  {acts.error}
                </p>
              )}
              {checking && <SoFar here={here} checking={checking} />}
              {build && acts.stale && (
                <p className="stale-says" role="status">
                  {unchecked
                    ? 'What changed is not checked; below is from before.'
                    : 'From before the change:'}
                </p>
              )}
              {!build && (
                <p className="soft">
                  {!checking && 'Measuring the figure; the first findings come in a moment.'}
                  {page.data.look && !untinted && ' The walls on the chart are sounded coarsely until then.'}
                </p>
              )}
              {build && <Gaps unseen={build.unseen.filter((gap) => gap.station === here)} />}
              <Bounded of={`${here} ${build?.key}`} what={STATION_NAMES[here]}>
                {build && current && (
                  <Note
                    figure={number}
                    build={build}
                    number={current.number}
                    finding={current.finding}
                    place={`${place + 1} of ${findings.length}`}
                    turns={turnsOf(does, now)}
                    ways={waysOf(does, now)}
                    material={material?.name.toLowerCase() ?? ''}
                    remedy={remedy}
                    chooseRemedy={(to) => {
                      chooseRemedy(to);
                    }}
                    apply={apply}
                    previewing={previewing}
                    besides={besides && canCompare}
                    spot={spot}
                    chooseSpot={chooseSpot}
                    large={swapped}
                    accept={accept}
                    rename={rename}
                  />
                )}
                {build && !current?.finding.where && (
                  <Panel
                    here={here}
                    {...{
                      page: page.data,
                      build,
                      acts,
                      printers,
                      materials,
                      large: swapped,
                      picking,
                      pointAt,
                      showBox: setBox,
                      showHandles: setHandles,
                      drawPart: choosePart,
                      part,
                      tinting,
                      setTinting,
                      showPlace,
                    }}
                  />
                )}
              </Bounded>
            </div>
            <KeyRow keys={rowOf(does, now)} />
          </aside>
          <section className="chart-side" aria-label="Chart">
            <Bounded of={part?.display ?? ''} what="The chart">
              {part ? (
                <Chart
                  part={other ? { ...part, display: other.display ?? part.display, soundings: [] } : part}
                  tints={other?.tints ?? (untinted && !picking.brush?.live ? undefined : tints)}
                  findings={shown}
                  chosen={current?.number ?? null}
                  choose={(to) => look(findings.findIndex((other) => other.number === to))}
                  pointed={pointed.set}
                  turns={here === 'gauge'}
                  grounded={here === 'bring-in'}
                  printer={['stand', 'layers'].includes(here) ? printer : undefined}
                  picked={picking.picked}
                  outlined={picking.outlined}
                  brush={picking.brush}
                  brushSays={setBrushSays}
                  stale={acts.stale}
                  open={open}
                  box={box}
                  handles={handles}
                  references={references}
                  picks={picking.picks}
                  ghosts={ghosts}
                  others={others}
                />
              ) : page.data.look ? (
                <FirstLook
                  name={page.data.look}
                  edition={page.data.edition}
                  tints={untinted ? undefined : tints}
                />
              ) : (
                <div className="chart">
                  <p className="empty soft">The chart is drawn when the figure is measured.</p>
                </div>
              )}
            </Bounded>
            {picking.asked && (
              <p className="picking-says" role="status">
                {picking.asked.says}
                {'count' in picking.asked && `: ${picking.picks.length} of ${picking.asked.count}`}.{' '}
                {brushSays && <BrushLine says={brushSays} material={material} />}
                <button className="plain" onClick={picking.leave}>
                  <u>leave it</u>
                </button>
              </p>
            )}
            {build && build.parts.length > 1 && (
              <PartLine build={build} here={facts?.part} choose={choosePart} />
            )}
            {facts && (
              <Calipers
                facts={facts}
                pointed={pointed}
                stale={acts.stale}
                material={material}
                printer={printer}
              />
            )}
          </section>
        </div>
        <Record
          page={page.data}
          steps={build?.steps ?? []}
          height={tall}
          printer={printer}
          material={material}
          editStep={acts.editStep}
          switchStep={acts.switchStep}
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

/** The part that is drawn: the one asked for, else that of the finding in focus, else the first. */
function shownPart(build: BuildRecord | null, asked: string | null, found: string | undefined) {
  const named = (name: string | null | undefined) => build?.parts.find(({ facts }) => facts.part === name);
  return named(asked) ?? named(found) ?? build?.parts[0];
}

function Missing({ says }: { says: string }) {
  return (
    <div className="empty">
      <h2>This sheet cannot be opened</h2>
      <p>{says}</p>
      <Link to="/">Back to the shelf</Link>
    </div>
  );
}

/** A finding with one of its places in focus. */
function atSpot(finding: Finding, spot: number): Finding {
  return { ...finding, where: finding.places[spot] ?? finding.where };
}

/** The station a careful person would look at first. */
function firstOpen(findings: Finding[] | undefined): Station {
  return findings?.[0]?.station ?? 'gauge';
}
