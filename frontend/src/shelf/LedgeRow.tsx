import { useState } from 'react';

import { count, roundLength } from '../app/units';
import type { ShelfFigure } from '../app/client';
import { AskName } from './AskName';
import { longestOf, type Ledge } from './ledges';
import { Ruler } from './Ruler';
import { Standing } from './Standing';
import type { ShelfActs } from './useShelf';

/** What a figure is dragged as. */
const DRAGGED = 'application/x-ulvet-figure';

interface Props {
  ledge: Ledge;
  /** mm that the height of the ledge stands for, where all ledges share one ruler. */
  shared: number | null;
  /** Pixels the longest side on it is drawn. */
  pixels: number;
  /** Whether there is no other ledge. */
  alone: boolean;
  collections: string[];
  shelf: ShelfActs;
  /** Which figure the keys are at. */
  here: number | null;
  turnTo: (figure: number) => void;
}

/** The figures of one collection, drawn to true relative scale beside their ruler; a figure dropped on it stands on it. */
export function LedgeRow({ ledge, shared, pixels, alone, collections, shelf, here, turnTo }: Props) {
  const { collection, figures } = ledge;
  const [over, setOver] = useState(false);
  const [naming, setNaming] = useState(false);
  const length = shared ?? longestOf(figures);
  const scale = pixels / length;
  const tallest = longestOf(figures);
  const called = collection || 'In no collection';
  return (
    <section
      className={`ledge ${over ? 'over' : ''}`}
      id={ledgeId(collection)}
      aria-label={called}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        setOver(false);
        const figure = Number(event.dataTransfer.getData(DRAGGED));
        if (figure) shelf.move(figure, collection);
      }}
    >
      <h2 className={alone && !collection ? 'hidden-says' : undefined}>
        {called} <span className="soft">{count(figures.length, 'figure')}</span>
        {collection && (
          <button className="plain soft" onClick={() => setNaming(true)}>
            <u>rename the collection</u>
          </button>
        )}
      </h2>
      <div className="shelf-row">
        <Ruler
          scale={scale}
          length={Math.min(length, tallest)}
          step={roundLength(Math.min(length, tallest) / 4)}
        />
        {figures.map((figure) => (
          <Standing
            key={figure.id}
            {...{ figure, scale, shelf, collections, turnTo }}
            here={figure.id === here}
            drag={(event) => event.dataTransfer.setData(DRAGGED, String(figure.id))}
          />
        ))}
      </div>
      {naming && (
        <AskName
          title={`Rename ${collection}`}
          label="Name of the collection"
          now={collection}
          longest={80}
          done={(name) => shelf.renameLedge(collection, name)}
          close={() => setNaming(false)}
        />
      )}
    </section>
  );
}

/** The address of a ledge on the sheet. */
export function ledgeId(collection: string): string {
  return `ledge-${encodeURIComponent(collection)}`;
}

/** A place for a figure that begins a collection of its own, shown while one is dragged. */
export function NewLedge({ begin }: { begin: (figure: number) => void }) {
  return (
    <p
      className="new-ledge"
      onDragOver={(event) => event.dataTransfer.types.includes(DRAGGED) && event.preventDefault()}
      onDrop={(event) => begin(Number(event.dataTransfer.getData(DRAGGED)))}
    >
      Drop a figure here to begin a collection with it.
    </p>
  );
}

/** The figure before or after another one, in the order they stand; the first where there is none. */
export function neighbour(ledges: Ledge[], here: number | null, by: number): ShelfFigure | undefined {
  const all = ledges.flatMap(({ figures }) => figures);
  const at = all.findIndex(({ id }) => id === here);
  return at < 0 ? all[0] : all[Math.max(0, Math.min(all.length - 1, at + by))];
}
