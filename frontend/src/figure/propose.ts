import { api, dataOf, type JobView, type Remedy, type SectionDrawing, type TrialResult } from '../app/client';
import { ended } from '../app/jobs';
import { triedAs } from './trial';

/** What a remedy would make: its parts, the section where the finding is, and what the record would say of it. */
export interface Proposal {
  tried: TrialResult;
  drawing: SectionDrawing;
  said: string;
}

interface Asked {
  figure: number;
  build: string;
  finding: number;
  part: string;
  spot: number;
  remedy: number;
}

/** Whether a remedy changes what can be drawn before it is made. */
export function canBeDrawn(remedy: Remedy | undefined): boolean {
  return remedy?.change.does === 'add-steps' || remedy?.change.does === 'set-step';
}

/** A remedy tried without changing anything, ready to be asked and kept. */
export function proposal(asked: Asked) {
  const { build, finding, remedy, spot } = asked;
  return {
    queryKey: ['preview', build, finding, remedy, spot],
    queryFn: ({ signal }: { signal: AbortSignal }) => propose(asked, signal),
    staleTime: Infinity,
  };
}

async function propose(
  { figure, build, finding, part, spot, remedy }: Asked,
  signal: AbortSignal,
): Promise<Proposal> {
  const job = await dataOf<JobView>(
    api.POST('/api/figures/{number}/previews', {
      params: { path: { number: figure } },
      body: { build, finding, remedy, place: spot, only_here: false },
    }),
  );
  const done = await ended(job, signal);
  if (done.state !== 'done') throw new Error(done.error || 'The trial was stopped.');
  const tried = await triedAs(done);
  const mesh = tried.parts.find(({ facts }) => facts.part === part)?.mesh;
  if (!mesh) throw new Error(`After it there is no part ${part}; apply it to see what there is.`);
  const drawing = await dataOf<SectionDrawing>(
    api.GET('/api/builds/{key}/sections/{finding}', {
      params: { path: { key: build, finding }, query: { mesh, place: spot, figure } },
    }),
  );
  return { tried, drawing, said: tried.said };
}
