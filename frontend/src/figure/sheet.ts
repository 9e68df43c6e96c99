import { createContext, useContext } from 'react';

import type {
  BuildRecord,
  FieldsOf,
  FigurePage,
  Setup,
  NewStep,
  PartRecord,
  Step,
  StepFields,
} from '../app/client';
import type { HandlesAsked } from '../chart/handles';
import type { Box } from '../chart/overlay';
import type { Picking } from './picking';
import type { FigureActs } from './useFigure';

/** What the chart is tinted by at Gauge. */
export type Tinting = 'walls' | 'detail';

/** A change that can be seen before it is made. */
export type Change =
  | { does: 'add'; says: string; step: NewStep }
  | { does: 'set'; says: string; steps: StepFields[] }
  | { does: 'fields'; says: string; step: Step; values: object };

/** A change of fields that a step has. */
export function fieldsChange<S extends Step>(says: string, step: S, values: FieldsOf<S>): Change {
  return { does: 'fields', says, step, values };
}

/** What is on a figure's sheet, and what can be asked of it; each station and act takes of it what it needs. */
export interface Sheet {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  /** Whether a change must wait: for another one, or for the figure to be checked. */
  busy: boolean;
  setups: Setup[];
  /** What the edition that is looked at is printed with. */
  setup: Setup | undefined;
  /** The part that is drawn. */
  part: PartRecord | undefined;
  picking: Picking;
  /** Whether drawings are shown large. */
  large: boolean;
  /** Shows a box on the chart, or none. */
  showBox: (box: Box | null) => void;
  /** Shows handles on the chart, or none. */
  showHandles: (handles: HandlesAsked | null) => void;
  /** Has a part drawn as the one that is worked on. */
  drawPart: (part: string) => void;
  /** How far the figure is drawn pulled apart, 0 to 1. */
  pulled: number;
  setPulled: (pulled: number) => void;
  tinting: Tinting;
  setTinting: (tinting: Tinting) => void;
  /** Turns to the finding of a place. */
  showPlace: (part: string, point: number[]) => void;
  /** Leaves the act that is open. */
  leaveAct: () => void;
  /** Opens another sheet of Ulvet. */
  open: (address: string) => void;
}

export const SheetContext = createContext<Sheet | null>(null);

/** The sheet that is looked at; throws outside one. */
export function useSheet(): Sheet {
  const sheet = useContext(SheetContext);
  if (!sheet) throw new Error('There is no sheet here.');
  return sheet;
}
