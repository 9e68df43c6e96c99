import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import {
  api,
  told,
  type BuildRecord,
  type Finding,
  type JobView,
  type Remedy,
  type SectionDrawing,
} from '../app/client';
import { ended } from '../app/jobs';
import { Mark } from '../app/Mark';
import { LayerDrawing } from '../stations/LayerDrawing';
import { Remedies } from './Remedies';
import { Scale } from './Scale';
import { Section } from './Section';

const SAYS = { stop: 'stops the release', caution: 'wants care', note: 'worth knowing' } as const;

interface Props {
  figure: number;
  build: BuildRecord;
  number: number;
  finding: Finding;
  place: string;
  material: string;
  remedy: number;
  chooseRemedy: (remedy: number) => void;
  apply: () => void;
  previewing: boolean;
  large: boolean;
}

/** One finding as a surveyor's note: its drawing and the value on a scale if it has a place, why it matters, and the
 * ways out. */
export function Note(props: Props) {
  const { figure, build, number, finding, place, material, remedy, chooseRemedy, apply, previewing, large } =
    props;
  const chosen = finding.remedies[remedy];
  const drawing = useQuery({
    queryKey: ['section', build.key, number],
    queryFn: () =>
      told<SectionDrawing>(
        api.GET('/api/builds/{key}/sections/{finding}', {
          params: { path: { key: build.key, finding: number } },
        }),
      ),
    enabled: finding.where !== null,
    staleTime: Infinity,
  });
  const proposal = useQuery({
    queryKey: ['preview', build.key, number, remedy],
    queryFn: () => propose(figure, build.key, number, finding.part, remedy),
    enabled: previewing && (chosen?.change.does === 'add-steps' || chosen?.change.does === 'set-step'),
    staleTime: Infinity,
  });
  return (
    <>
      <div className="topline">
        <span>{SAYS[finding.severity]}</span>
        <span>{place}</span>
      </div>
      <h2>
        <Mark severity={finding.severity} size={15} />
        {finding.title}
      </h2>
      {!finding.where ? null : finding.station === 'layers' ? (
        <LayerDrawing key={number} build={build} finding={finding} large={large} />
      ) : drawing.data ? (
        <Section
          drawing={drawing.data}
          proposal={previewing ? (proposal.data ?? null) : null}
          grown={previewing ? growth(chosen, build) : null}
          height={large ? 300 : 168}
        />
      ) : (
        <div className="drawing soft" style={{ height: 168, padding: 12 }}>
          {drawing.isError ? drawing.error.message : 'Cutting the section …'}
        </div>
      )}
      {previewing && proposal.isFetching && <p className="soft">Trying it …</p>}
      {previewing && proposal.isError && <p className="error">{proposal.error.message}</p>}
      {finding.where && <Scale finding={finding} material={material} />}
      <p className="why">{finding.why}</p>
      {(finding.where || finding.remedies.length > 0) && (
        <Remedies remedies={finding.remedies} chosen={remedy} choose={chooseRemedy} apply={apply} />
      )}
    </>
  );
}

async function propose(figure: number, build: string, finding: number, part: string, remedy: number) {
  const job = await told<JobView>(
    api.POST('/api/figures/{number}/previews', {
      params: { path: { number: figure } },
      body: { build, finding, remedy },
    }),
  );
  const done = await ended(job);
  const meshes = done.made.meshes as Record<string, string> | undefined;
  if (done.state !== 'done' || !meshes) throw new Error(done.error || 'The trial was stopped.');
  const mesh = meshes[part];
  if (!mesh) throw new Error(`After it there is no part ${part}; apply it to see what there is.`);
  return told<SectionDrawing>(
    api.GET('/api/builds/{key}/sections/{finding}', {
      params: { path: { key: build, finding }, query: { mesh } },
    }),
  );
}

/** How much larger a remedy makes the figure; null when it does not change the size. */
function growth(remedy: Remedy | undefined, build: BuildRecord): number | null {
  if (remedy?.change.does !== 'set-edition') return null;
  const height = remedy.change.edition.height;
  const now = build.size_mm[2];
  return height && now && Math.abs(height / now - 1) > 1e-3 ? height / now : null;
}

/** Which remedy is chosen of each finding, the first until another is. */
export function useChosenRemedy(key: string): [number, (remedy: number) => void] {
  const [chosen, setChosen] = useState<Record<string, number>>({});
  return [chosen[key] ?? 0, (remedy) => setChosen((before) => ({ ...before, [key]: remedy }))];
}
