import TextField from '@mui/material/TextField';
import { useRef, useState } from 'react';
import { Link } from 'react-router';

import { ErrorLine } from '../app/ErrorLine';
import { Coming, FilePicker, useBringIn } from '../app/bringIn';
import type { ShelfFigure } from '../app/client';
import { turnLight } from '../app/light';
import { LightSwitch } from '../app/LightSwitch';
import { useProfile } from '../app/profile';
import { count } from '../app/units';
import { useKeys } from '../app/useKeys';
import { STATION_NAMES, STATIONS } from '../stations/names';
import { AskName } from './AskName';
import { BeginForm } from './BeginForm';
import { ShelfFoot } from './Deleted';
import { StudioForm } from './StudioForm';
import { LedgeRow, ledgeId, NewLedge, neighbour } from './LedgeRow';
import { ledgesOf, longestOf, type Looked } from './ledges';
import { useFileDrop } from './useFileDrop';
import { useShelf, type ShelfActs } from './useShelf';
import { ChoiceField } from '../stations/Fields';

/** Share of the window's height that the longest side on a ledge takes, where few figures stand, and where many do. */
const [LARGE, SMALL] = [0.5, 0.24];
/** So many figures are seen at a glance: more stand smaller, and are looked through by names. */
const FEW = 6;

/** The studio's figures, on ledges by collection, drawn to true relative scale beside rulers. */
export function Shelf() {
  const shelf = useShelf();
  const { figures } = shelf;
  const { coming, error, bringIn, begin } = useBringIn();
  const [beginning, setBeginning] = useState(false);
  const profile = useProfile();
  const [naming, setNaming] = useState(false);

  useKeys({ n: turnLight });
  const dropping = useFileDrop((file) => void bringIn(file));
  const all = figures.data ?? [];
  return (
    <div className="page">
      <header className="head">
        <h1 className="name">Ulvet</h1>
        <span>
          Shelf of{' '}
          <button
            className="plain"
            title="Name, money and dates of the studio"
            onClick={() => setNaming(true)}
          >
            <b>
              <u>{profile.name}</u>
            </b>
          </button>
          {naming && <StudioForm profile={profile} close={() => setNaming(false)} />}
        </span>
        <span className="right">
          <Coming coming={coming} />
          <LightSwitch />
          <Link to="/plates-and-days">Plates and days</Link>
          <Link to="/releases">Releases</Link>
          <Link to="/bench">Bench</Link>
          <Link to="/bits">Bits</Link>
          <Link to="/line-up">Line-up</Link>
          <Link to="/scanner">Scan an object</Link>
          <button className="ruled" onClick={() => setBeginning(true)}>
            Begin with a form
          </button>
          <FilePicker says="Bring in a figure" take={(file) => void bringIn(file)} />
        </span>
      </header>
      <BeginForm
        open={beginning}
        close={() => setBeginning(false)}
        begin={(begun) => {
          setBeginning(false);
          void begin(begun);
        }}
      />
      <main className="sheet">
        {dropping && (
          <div className="dropping">
            Let go to bring it in
            <span className="soft" style={{ font: '15px var(--sans)' }}>
              STL, OBJ, PLY, 3MF, GLB, or a ZIP with one of them
            </span>
          </div>
        )}
        <div className="shelf">
          <p className="error" role="alert">
            {error || shelf.error}
          </p>
          <ErrorLine says={figures.error?.message} />
          {figures.isPending && <p className="empty">Looking through the shelf …</p>}
          {figures.isSuccess && all.length === 0 && <Empty />}
          {all.length > 0 && <Ledges figures={all} shelf={shelf} />}
          {figures.isSuccess && <ShelfFoot />}
        </div>
      </main>
    </div>
  );
}

function Ledges({ figures, shelf }: { figures: ShelfFigure[]; shelf: ShelfActs }) {
  const [looked, look] = useState<Looked>({ words: '', next: '' });
  const [oneRuler, setOneRuler] = useState(false);
  const [here, turnTo] = useState<number | null>(null);
  const [begun, beginWith] = useState<number | null>(null);
  const [dragging, setDragging] = useState(false);
  const words = useRef<HTMLInputElement>(null);
  const ledges = ledgesOf(figures, looked);
  const shown = ledges.flatMap((ledge) => ledge.figures).length;
  const collections = [...new Set(figures.map(({ collection }) => collection))].filter(Boolean);
  const turn = (by: number) => {
    const to = neighbour(ledges, here, by);
    if (to) turnTo(to.id);
  };
  useKeys({
    '/': () => words.current?.focus(),
    ArrowRight: () => turn(1),
    ArrowLeft: () => turn(-1),
    Escape: () => look({ words: '', next: '' }),
    u: shelf.undo,
    'ctrl+z': shelf.undo,
  });
  const many = figures.length > FEW;
  return (
    <div onDragStart={() => setDragging(true)} onDragEnd={() => setDragging(false)}>
      <div className="look-for" role="search">
        {many && (
          <>
            <TextField
              size="small"
              label="Find by name, or by what is next"
              value={looked.words}
              inputRef={words}
              onChange={(event) => look({ ...looked, words: event.target.value })}
            />
            <ChoiceField
              label="What is next is at"
              value={looked.next}
              options={[
                ['', 'any station'],
                ...STATIONS.filter((station) =>
                  figures.some((figure) => figure.next_station === station),
                ).map((station) => [station, STATION_NAMES[station]] as const),
              ]}
              change={(next) => look({ ...looked, next })}
            />
            <span role="status">
              {shown === figures.length
                ? count(figures.length, 'figure')
                : `${shown} of ${count(figures.length, 'figure')}`}
            </span>
          </>
        )}
        {ledges.length > 1 && (
          <nav aria-label="Collections">
            {ledges.map((ledge) => (
              <a key={ledge.collection} href={`#${ledgeId(ledge.collection)}`}>
                {ledge.collection || 'in none'} {ledge.figures.length}
              </a>
            ))}
          </nav>
        )}
        {ledges.length > 1 && (
          <button className="plain" aria-pressed={oneRuler} onClick={() => setOneRuler(!oneRuler)}>
            <u>{oneRuler ? 'a ruler for each ledge' : 'all on one ruler'}</u>
          </button>
        )}
        <span className="soft keys-said">
          <kbd>←</kbd> <kbd>→</kbd> from figure to figure, then <kbd>R</kbd> rename, <kbd>M</kbd> move,{' '}
          <kbd>C</kbd> copy, <kbd>Del</kbd> delete
        </span>
      </div>
      {shelf.said && (
        <p role="status">
          {shelf.said}{' '}
          <button className="plain" onClick={shelf.undo}>
            <kbd>U</kbd> <u>undo</u>
          </button>
        </p>
      )}
      {shown === 0 && (
        <p className="empty">
          Nothing on the shelf goes by that.{' '}
          <button className="plain" onClick={() => look({ words: '', next: '' })}>
            <u>Show all figures</u>
          </button>
        </p>
      )}
      {ledges.map((ledge) => (
        <LedgeRow
          key={ledge.collection}
          {...{ ledge, collections, shelf, here, turnTo }}
          shared={oneRuler ? longestOf(figures) : null}
          alone={ledges.length === 1}
          pixels={Math.round(window.innerHeight * (figures.length <= FEW ? LARGE : SMALL))}
        />
      ))}
      {dragging && <NewLedge begin={beginWith} />}
      <p className="shelf-room">Room for the next: drop a sculpt or scan anywhere on this sheet.</p>
      {begun !== null && (
        <AskName
          title="Begin a collection"
          label="Name of the collection"
          now=""
          known={collections}
          longest={80}
          done={(name) => shelf.move(begun, name)}
          close={() => beginWith(null)}
        />
      )}
    </div>
  );
}

function Empty() {
  return (
    <div className="empty">
      <h2>The shelf is empty</h2>
      <p>
        Drop a sculpt or scan here (STL, OBJ, PLY, 3MF, GLB), bring one in with the button above, or begin
        with a plain form. Ulvet measures it at print size and says what would go wrong before you print it.
      </p>
    </div>
  );
}
