import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Canvas } from '@react-three/fiber';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';

import type { Finding, PartRecord, Printer, Sounding } from '../app/client';
import { useLight } from '../app/light';
import { CHARTS } from '../app/theme';
import type { Outline, Pick } from '../figure/picking';
import { plateUnder } from './axes';
import { fetchDisplayMesh, fetchSoundings } from './displayMesh';
import type { Tints } from './levels';
import type { Reference } from './references';
import { drawnInSoftware } from './software';
import { edgesOf, EMPTY, layOut, type Box, type Label } from './overlay';
import type { View } from './framing';
import { Stage, type Standing } from './Stage';
import { DrawnOutline } from './DrawnOutline';
import { DragHandles } from './DragHandles';
import { boxOf, type HandlesAsked } from './handles';
import { DrawnStroke } from './DrawnStroke';
import type { BrushAsked } from './brush';
import { useBrush, type BrushSays } from './useBrush';
import { Legend } from './Legend';
import { Margins } from './Margins';
import { useMoved, type Moves } from './moved';
import { KEPT_MS, useDisplay, useDisplays } from './useDisplay';

interface Props {
  part: PartRecord;
  /** What the depth tints stand for; none leaves the stone bare. */
  tints?: Tints | undefined;
  /** Findings of the station, with their number in the build. */
  findings: { number: number; finding: Finding }[];
  chosen: number | null;
  choose: (number: number) => void;
  pointed: (wall: number | null) => void;
  /** Whether the figure turns so that the place of the chosen finding is seen. */
  turns?: boolean;
  /** Whether the ground is drawn. */
  grounded?: boolean;
  /** The printer it is shown in, standing as it will be printed; none shows the figure upright. */
  printer?: Printer | undefined;
  picked?: ((pick: Pick) => void) | undefined;
  /** Hears of an outline drawn over the chart; none where a drag turns the figure. */
  outlined?: ((outline: Outline) => void) | undefined;
  /** The brush strokes are drawn with, and what hears how it does. */
  brush?: BrushAsked | undefined;
  brushSays?: (says: BrushSays | null) => void;
  /** Whether the part is as it was before the last change. */
  stale?: boolean;
  /** Open findings of the part, at whatever station. */
  open?: readonly Finding[];
  /** Places picked so far. */
  picks?: Pick[];
  /** Blobs of the display meshes of foreign things beside the figure. */
  ghosts?: string[];
  /** Blobs of the display meshes of the figure's other parts. */
  others?: string[];
  /** By other part how far it is drawn from where it belongs, figure mm. */
  moves?: Moves;
  /** The same of parts that a change would bring. */
  proposedMoves?: Moves;
  /** Names in the margins. */
  labels?: readonly Label[];
  /** Whether the part fades, since a change would leave none of it. */
  fades?: boolean;
  /** Pictures to work from, behind the figure. */
  references?: readonly Reference[];
  /** A bit that is moved by handles. */
  handles?: HandlesAsked | null;
  /** Blob of the display mesh of the part as it is, where the part is shown as it would be. */
  before?: string | null;
  /** Blob of the display mesh of its spaces, where they are drawn in a faded skin. */
  inside?: string | null;
  /** Blobs of the display meshes of parts that a change would bring. */
  proposed?: string[];
  /** Corners of a box beside the figure, the least and the greatest, figure mm. */
  box?: Box | null;
}

const NO_PICKS: Pick[] = [];
const NO_GHOSTS: string[] = [];
const NO_FINDINGS: Finding[] = [];
const NO_SOUNDINGS: Sounding[] = [];
const NO_REFERENCES: Reference[] = [];
const NO_MOVES: Moves = [];
const NO_LABELS: Label[] = [];
const NO_LINES: Finding['lines'] = [];
const unheard = () => undefined;

/** The chart: the figure with tints and soundings, and the station's findings as notes in its margins. */
export function Chart({
  part,
  tints,
  findings,
  chosen,
  choose,
  pointed,
  turns = false,
  grounded = false,
  printer,
  picked,
  outlined,
  brush: brushAsked,
  brushSays = unheard,
  stale = false,
  open = NO_FINDINGS,
  picks = NO_PICKS,
  ghosts = NO_GHOSTS,
  others = NO_GHOSTS,
  box = null,
  handles = null,
  references = NO_REFERENCES,
  before = null,
  proposed = NO_GHOSTS,
  inside = null,
  moves = NO_MOVES,
  proposedMoves = NO_MOVES,
  labels = NO_LABELS,
  fades = false,
}: Props) {
  const mesh = useQuery({
    queryKey: ['display', part.display],
    queryFn: () => fetchDisplayMesh(part.display),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
  const drawnSupports = printer ? part.supports_display : null;
  const supports = useDisplay(drawnSupports);
  const handled = useDisplay(handles?.display ?? null);
  const was = useDisplay(before);
  const beside = useDisplays(ghosts);
  const apart = useMoved(useDisplays(others), moves);
  const brought = useMoved(useDisplays(proposed), proposedMoves);
  const within = useDisplay(inside);
  const sounded = useQuery({
    queryKey: ['soundings', part.soundings],
    queryFn: () => fetchSoundings(part.soundings ?? ''),
    enabled: part.soundings !== null,
    staleTime: Infinity,
    gcTime: KEPT_MS,
  });
  const soundings = (part.soundings !== null && sounded.data) || NO_SOUNDINGS;
  const standing = useMemo<Standing | undefined>(
    () =>
      printer && {
        up: part.facts.stance.up,
        supports,
        plate: plateUnder(part, printer),
      },
    [printer, part, supports],
  );
  const frame = useRef<HTMLDivElement>(null);
  const view = useRef<View | null>(null);
  const [aim, setAim] = useState<{ x: number; y: number } | null>(null);
  const [overlay, setOverlay] = useState(EMPTY);
  const [settled, setSettled] = useState(false);
  const [still, setStill] = useState(false);
  const factor = part.facts.factor;
  const levels = useMemo(() => {
    if (!tints || tints.palette) return null;
    const [a, b, c, d] = tints.levels;
    return [a / factor, b / factor, c / factor, d / factor] as [number, number, number, number];
  }, [tints, factor]);

  const { brush, worked } = useBrush({
    asked: brushAsked,
    part: part.facts.part,
    // While another part is fetched, the one before is still drawn: nothing is worked on it.
    mesh: mesh.isPlaceholderData ? undefined : mesh.data,
    findings: open,
    factor,
    stale,
    says: brushSays,
    redraw: () => view.current?.redraw(),
  });
  const drawn = worked ?? mesh.data;
  const noted = findings.find(({ number }) => number === chosen)?.finding;
  const lay = useCallback(() => {
    const element = frame.current;
    if (!element || !view.current) return;
    const { clientWidth: width, clientHeight: height } = element;
    const shown = printer ? part.tips : tints && !tints.palette ? soundings : inside ? openingsOf(part) : [];
    const at = view.current.project;
    const laid = layOut(at, shown, factor, findings, chosen, width, height, labels);
    setOverlay({
      ...laid,
      picks: picks.map(({ point }) => at(point)),
      box: box && edgesOf(box, at),
      view: view.current,
    });
    setSettled(true);
  }, [part, soundings, findings, chosen, tints, printer, inside, factor, picks, box, labels]);

  const colours = CHARTS[useLight()];
  const waiting = useRef(0);
  const resting = useRef(0);
  const latestLay = useRef(lay);
  useEffect(() => {
    latestLay.current = lay;
    lay();
  }, [lay]);
  const moved = useCallback((now: View) => {
    view.current = now;
    cancelAnimationFrame(waiting.current);
    waiting.current = requestAnimationFrame(() => latestLay.current());
    // Drawn light while it turns, and fine once it rests.
    setStill(false);
    window.clearTimeout(resting.current);
    resting.current = window.setTimeout(() => setStill(true), 250);
  }, []);

  return (
    <div className="chart" ref={frame} data-settled={settled && still && mesh.isSuccess}>
      {mesh.isError && <p className="empty error">{mesh.error.message}</p>}
      {mesh.isPending && <p className="empty soft">Drawing the figure …</p>}
      {drawn && (
        <>
          <Canvas
            orthographic
            frameloop="demand"
            dpr={still ? 2 : 1}
            flat
            gl={{ antialias: !drawnInSoftware(), alpha: true }}
          >
            <Stage
              mesh={drawn}
              levels={levels}
              palette={tints?.palette?.regions}
              colours={colours}
              moved={moved}
              pointed={pointed}
              {...(standing && { standing })}
              {...(picked && { picked })}
              aimed={setAim}
              ghosts={beside}
              others={apart}
              proposed={brought}
              before={was}
              references={references}
              face={turns ? (noted?.where ?? null) : null}
              trouble={noted?.lines ?? NO_LINES}
              grounded={grounded}
              inside={within}
              ghosted={fades || !!within || (noted?.where?.shows === false && noted.lines.length > 0)}
            />
          </Canvas>
          <Margins
            overlay={overlay}
            chosen={chosen}
            choose={choose}
            frame={frame}
            fine={!!printer}
            aim={aim}
          />
          {outlined && (
            <DrawnOutline drawn={(line) => view.current && outlined(view.current.outline(line))} />
          )}
          {handles && handled && overlay.view && (
            <DragHandles
              asked={handles}
              box={boxOf(handled.geometry)}
              project={overlay.view.project}
              pick={overlay.view.pick}
            />
          )}
          {brushAsked && (
            <DrawnStroke
              frame={frame}
              asked={brushAsked}
              brush={brush}
              pick={(x, y) => view.current?.pick(x, y) ?? null}
            />
          )}
          {tints && <Legend tints={tints} />}
          {inside && part.openings.length > 0 && <p className="legend">figures: opening, mm wide</p>}
          {printer && part.tips.length > 0 && <p className="legend">figures: tip, mm</p>}
        </>
      )}
    </div>
  );
}

/** The openings of a part as figures on the chart: how wide each is. */
function openingsOf({ openings, facts }: PartRecord): Sounding[] {
  return openings.map(({ point, diameter }) => ({ point, normal: null, wall: diameter / facts.factor }));
}
