import type { ComponentType, ReactNode } from 'react';

import type { PartRecord, Station } from '../app/client';
import type { Tints } from '../chart/levels';
import type { Sheet } from '../figure/sheet';

/** What can be done at a station beside its findings. */
export interface StationAct {
  /** Its name, by which it is found too. */
  name: string;
  /** What it costs or changes, in a few words. */
  costs: string;
  /** The acts it stands among. */
  group?: string;
  /** The key that opens it, where it has one. */
  key?: string;
  /** Does it at once; what is left out opens with its fields. */
  does?: () => void;
  /** Its few fields, shown alone. */
  fields?: (sheet: Sheet) => ReactNode;
  /** Whether it stays open after a change, until it is left. */
  stays?: boolean;
}

/** What the chart shows while a station is looked at. */
export interface StationChart {
  /** Whether the walls are tinted. */
  walls?: boolean;
  /** Whether the figure turns so that the place of the finding in focus is seen. */
  turns?: boolean;
  /** Whether the ground is drawn. */
  grounded?: boolean;
  /** Whether it is shown in its printer, standing as it will be printed. */
  inPrinter?: boolean;
  /** Whether the skin fades where there are spaces inside, which are drawn with their openings. */
  inside?: boolean;
  /** Whether foreign things are drawn beside the figure. */
  ghosts?: boolean;
  /** Whether the figure's other parts are drawn. */
  others?: boolean;
  /** Whether the figure can be pulled apart, and its parts are named in the margins. */
  apart?: boolean;
  /** Whether pictures to work from are drawn. */
  references?: boolean;
  /** What is tinted in place of the walls, where no finding is in focus. */
  instead?: (sheet: Sheet) => { tints: Tints; display: string | null } | undefined;
  /** Whether that is so where a finding is in focus too. */
  always?: boolean;
  /** What is drawn of the figure's other parts, where it is not as they are. */
  othersDrawn?: (part: PartRecord) => string;
}

/** One station: the folder of its name gives one as ``station``, and the page finds it. */
export interface StationFolder {
  id: Station;
  /** What it says of the figure, above what can be done. */
  Report: ComponentType<Sheet>;
  /** What else it knows, below. */
  More?: ComponentType<Sheet>;
  /** What can be done now. */
  acts?: (sheet: Sheet) => StationAct[];
  chart?: StationChart;
}
