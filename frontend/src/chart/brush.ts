import { lookedEdition } from '../app/client';
import type { Pick as Place } from '../figure/picking';
import { copyOf, draw, readFollowed, type DisplayMesh } from './displayMesh';

/** Lines that are asked for, drawn over the figure, and who hears of each. */
export interface BrushAsked {
  /** What presses the skin as they are drawn; none where they are only lines. */
  live: LiveBrush | null;
  ended: (picks: Place[]) => void;
}

/** A brush: the part it is for as a build has it, and what its strokes do. */
export interface LiveBrush {
  figure: number;
  build: string;
  part: string;
  /** The step of a stroke, without its places. */
  stroke: object;
  place: (pick: Place) => object;
}

/** How a brush stands: being laid out, at work, or, with the reason, only drawing what is applied in the end. */
export type BrushState = { at: 'laying out' } | { at: 'work' } | { at: 'afterwards'; why: string };

interface Said {
  message: object;
  /** Whether the server answers it with what moved. */
  answered: boolean;
}

/** Drawn vertices that were touched, and the thinnest wall among them, figure mm. */
export type Touched = (vertices: Uint32Array, least: number) => void;

/** What `make benchmark` reads: from a place of the pointer until the figure is ready to be drawn with it. */
const MEASURE = 'place of a stroke';

/** A brush on a copy of what is drawn: places go to the server one by one, and what they moved comes back. */
export class Brush {
  readonly worked: DisplayMesh;
  private socket: WebSocket;
  private asked: number[] = [];
  /** What is said before the server is ready, in order; null once it is. */
  private waiting: Said[] | null = [];
  private fallen = false;

  constructor(
    { figure, build, part }: Pick<LiveBrush, 'figure' | 'build' | 'part'>,
    mesh: DisplayMesh,
    private heard: { state: (state: BrushState) => void; touched: Touched },
  ) {
    this.worked = copyOf(mesh);
    const { protocol, host } = window.location;
    this.socket = new WebSocket(
      `${protocol === 'https:' ? 'wss' : 'ws'}://${host}/api/figures/${figure}/brush`,
    );
    this.socket.binaryType = 'arraybuffer';
    this.socket.addEventListener('open', () =>
      this.socket.send(JSON.stringify({ build, part, edition: lookedEdition() })),
    );
    this.socket.addEventListener('message', (event: MessageEvent<ArrayBuffer | string>) =>
      typeof event.data === 'string' ? this.dataOf(event.data) : this.answered(event.data),
    );
    this.socket.addEventListener('close', () =>
      this.falls('The brush was taken away: strokes are applied when they are drawn.'),
    );
    heard.state({ at: 'laying out' });
  }

  /** Begins a stroke with its first place. */
  begin(stroke: object, place: object): void {
    performance.clearMeasures(MEASURE);
    this.say({ stroke: { ...stroke, places: [place] } });
  }

  place(place: object): void {
    this.say({ place });
  }

  end(): void {
    this.worked.bvh.refit();
    this.say({ end: true }, false);
  }

  /** Takes the stroke under way back. */
  leave(): void {
    this.say({ leave: true });
  }

  /** Whether what is drawn follows already. */
  get atWork(): boolean {
    return this.waiting === null && !this.fallen;
  }

  close(): void {
    this.heard = { state: () => undefined, touched: () => undefined };
    this.socket.close();
  }

  private say(message: object, answered = true): void {
    if (this.fallen) return;
    if (this.waiting) {
      this.waiting.push({ message, answered });
      return;
    }
    if (answered) this.asked.push(performance.now());
    this.socket.send(JSON.stringify(message));
  }

  private dataOf(text: string): void {
    const { ready, error } = JSON.parse(text) as { ready?: true; error?: string };
    if (ready) {
      const waiting = this.waiting ?? [];
      this.waiting = null;
      this.heard.state({ at: 'work' });
      for (const { message, answered } of waiting) this.say(message, answered);
    }
    if (error) this.falls(error);
  }

  private falls(why: string): void {
    this.fallen = true;
    this.heard.state({ at: 'afterwards', why });
  }

  private answered(bytes: ArrayBuffer): void {
    const followed = readFollowed(bytes);
    draw(this.worked, followed);
    const start = this.asked.shift();
    if (start !== undefined) performance.measure(MEASURE, { start, end: performance.now() });
    this.heard.touched(
      followed.vertices,
      followed.walls.reduce((a, b) => Math.min(a, b), Infinity),
    );
  }
}
