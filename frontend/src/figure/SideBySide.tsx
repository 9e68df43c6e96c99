import { useQueries } from '@tanstack/react-query';

import type { BuildRecord, Finding, SectionDrawing } from '../app/client';
import type { proposal } from './propose';
import { Section } from './Section';
import { TakesTable } from './TakesTable';

interface Props {
  build: BuildRecord;
  finding: Finding;
  /** The section as it is. */
  drawing: SectionDrawing;
  asked: (remedy: number) => ReturnType<typeof proposal>;
  chosen: number;
  choose: (remedy: number) => void;
}

/** Every way out that changes the surface, tried at once: its section over the one that is, and what it cost. */
export function SideBySide({ build, finding, drawing, asked, chosen, choose }: Props) {
  const tried = triable(finding);
  const found = useQueries({ queries: tried.map(asked) });
  return (
    <div className="side-by-side" role="group" aria-label="All ways tried">
      {tried.map((k, at) => (
        <button key={k} className="plain" aria-pressed={k === chosen} onClick={() => choose(k)}>
          <b>{finding.remedies[k]?.label}</b>
          <Section drawing={drawing} proposal={found[at]?.data?.drawing ?? null} grown={null} height={220} />
          <span className="soft" role="status">
            {found[at]?.isPending && 'Trying it …'}
            {found[at]?.isError && found[at].error.message}
            {found[at]?.data?.said}
          </span>
        </button>
      ))}
      <div style={{ gridColumn: '1 / -1' }}>
        <TakesTable
          build={build}
          ways={tried.flatMap((k, at) => {
            const takes = found[at]?.data?.tried.takes;
            return takes ? [{ says: finding.remedies[k]?.label ?? '', takes }] : [];
          })}
        />
      </div>
    </div>
  );
}

/** The remedies of a finding that can be tried on the mesh. */
export function triable(finding: Finding): number[] {
  return finding.remedies.flatMap(({ change }, k) => (change.does === 'add-steps' ? [k] : []));
}
