import type { BuildRecord, NewStep, PartRecord, StepOf } from '../../app/client';
import { stepsOf } from '../../app/steps';

/** The part a step is for, where a figure has several. */
export function scopeOf(build: BuildRecord, part: PartRecord): string | null {
  return build.parts.length > 1 ? part.facts.part : null;
}

/** The step that hollows a part, where there is one. */
export function hollowOf(build: BuildRecord, part: PartRecord | undefined): StepOf<'hollow'> | undefined {
  return stepsOf(build, 'hollow').findLast(({ scope }) => scope === null || scope === part?.facts.part);
}

/** The step that says that a part is meant to be solid. */
export function leavesSolid(build: BuildRecord, part: PartRecord): NewStep {
  return { kind: 'leave-solid', scope: scopeOf(build, part) };
}

/** One opening of a part with the step that cut it, and which of its places it is. */
export interface OpeningRow {
  number: number;
  point: [number, number, number];
  diameter: number;
  end: 'plate end' | 'film end' | 'both ends' | 'shut by the plate' | 'between' | 'a vent';
  plugged: boolean;
  step: StepOf<'drain'> | StepOf<'vent'> | undefined;
  place: number;
}

/** The openings of a part, each with the end of its space that it is at. */
export function openingsOf(build: BuildRecord, part: PartRecord): OpeningRow[] {
  const steps = [...stepsOf(build, 'drain'), ...stepsOf(build, 'vent')];
  const taken = new Map<number, number>();
  return part.openings.map((opening, number) => {
    const step = steps.find(({ id }) => id === opening.step);
    const place = nearest(step?.places ?? [], opening.point) ?? taken.get(opening.step) ?? 0;
    taken.set(opening.step, place + 1);
    return {
      number,
      point: opening.point as [number, number, number],
      diameter: opening.diameter,
      end: endOf(part, number),
      plugged: opening.plugged ?? false,
      step,
      place,
    };
  });
}

function endOf(part: PartRecord, number: number): OpeningRow['end'] {
  const space = part.spaces.find(({ openings }) => openings.includes(number));
  if (!space) return 'a vent';
  const plate = space.at_plate_end.includes(number);
  const film = space.at_film_end.includes(number);
  if (space.shut_by_plate.includes(number)) return 'shut by the plate';
  return plate && film ? 'both ends' : plate ? 'plate end' : film ? 'film end' : 'between';
}

function nearest(places: { point: number[] }[], point: number[]): number | null {
  if (!places.length) return null;
  const away = places.map(({ point: at }) =>
    Math.hypot(...at.map((value, axis) => value - (point[axis] ?? 0))),
  );
  return away.indexOf(Math.min(...away));
}
