import type { ShelfFigure, Station } from '../app/client';

/** What stands together on the shelf. */
export interface Ledge {
  /** Empty for what nobody put into a collection. */
  collection: string;
  /** The one worked on last first. */
  figures: ShelfFigure[];
}

/** What is looked for on the shelf. */
export interface Looked {
  /** A part of a name, of a collection, or of what is next. */
  words: string;
  /** The station at which the next thing is to be done; empty for any. */
  next: Station | '';
}

/** Figures by collection, the ledge that was worked on last first; what is not looked for is left out. */
export function ledgesOf(figures: ShelfFigure[], { words, next }: Looked): Ledge[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = figures.filter((figure) => {
    const said = `${figure.name} ${figure.collection} ${figure.next}`.toLowerCase();
    return wanted.every((word) => said.includes(word)) && (!next || figure.next_station === next);
  });
  const ledges = new Map<string, ShelfFigure[]>();
  for (const figure of found)
    ledges.set(figure.collection, [...(ledges.get(figure.collection) ?? []), figure]);
  return [...ledges].map(([collection, on]) => ({ collection, figures: on }));
}

/** Print mm that the ruler of a ledge stands for at least. */
const LEAST_RULER = 20;

/** The longest side of what stands on a ledge, mm; something to begin with where nothing is measured. */
export function longestOf(figures: ShelfFigure[]): number {
  return Math.max(LEAST_RULER, ...figures.flatMap(({ size_mm }) => size_mm ?? []));
}
