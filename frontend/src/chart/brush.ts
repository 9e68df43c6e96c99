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

/** Drawn vertices that were touched, and the thinnest wall among them, figure mm. */
export type Touched = (vertices: Uint32Array, least: number) => void;

/** What `make benchmark` reads: from a place of the pointer until the figure is ready to be drawn with it. */
const MEASURE = 'place of a stroke';

/** A brush on a copy of what is drawn: places go to the server one by one, and what they moved comes back. */
export class Brush {
  readonly worked: DisplayMesh;
  private socket: WebSocket;
  private asked: number[] = [];
  private ready = false;

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
    this.socket.addEventListener('open', () => this.say({ build, part }));
    this.socket.addEventListener('message', (event: MessageEvent<ArrayBuffer | string>) =>
      typeof event.data === 'string' ? this.told(event.data) : this.answered(event.data),
    );
    this.socket.addEventListener('close', () =>
      this.falls('The brush was taken away: strokes are applied when they are drawn.'),
    );
    heard.state({ at: 'laying out' });
  }

  /** Begins a stroke with its first place. */
  begin(stroke: object, place: object): void {
    performance.clearMeasures(MEASURE);
    this.ask({ stroke: { ...stroke, places: [place] } });
  }

  place(place: object): void {
    this.ask({ place });
  }

  end(): void {
    this.worked.bvh.refit();
    if (this.ready) this.say({ end: true });
  }

  /** Takes the stroke under way back. */
  leave(): void {
    if (this.ready) this.ask({ leave: true });
  }

  close(): void {
    this.heard = { state: () => undefined, touched: () => undefined };
    this.socket.close();
  }

  private say(message: object): void {
    this.socket.send(JSON.stringify(message));
  }

  private ask(message: object): void {
    if (!this.ready) return;
    this.asked.push(performance.now());
    this.say(message);
  }

  private told(text: string): void {
    const { ready, error } = JSON.parse(text) as { ready?: true; error?: string };
    if (ready) {
      this.ready = true;
      this.heard.state({ at: 'work' });
    }
    if (error) this.falls(error);
  }

  private falls(why: string): void {
    this.ready = false;
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
