import { api, told, type JobView, type SectionDrawing } from '../app/client';
import { ended } from '../app/jobs';
import { triedAs } from './trial';

/** What a remedy would make: the section where the finding is, and what the record would say of it. */
export interface Proposal {
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
  const job = await told<JobView>(
    api.POST('/api/figures/{number}/previews', {
      params: { path: { number: figure } },
      body: { build, finding, remedy, place: spot },
    }),
  );
  const done = await ended(job, signal);
  if (done.state !== 'done') throw new Error(done.error || 'The trial was stopped.');
  const { parts, said } = await triedAs(done);
  const mesh = parts.find(({ facts }) => facts.part === part)?.mesh;
  if (!mesh) throw new Error(`After it there is no part ${part}; apply it to see what there is.`);
  const drawing = await told<SectionDrawing>(
    api.GET('/api/builds/{key}/sections/{finding}', {
      params: { path: { key: build, finding }, query: { mesh, place: spot } },
    }),
  );
  return { drawing, said };
}
