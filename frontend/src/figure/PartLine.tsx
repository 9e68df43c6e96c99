import type { BuildRecord } from '../app/client';

/** The parts of a figure by name, with what is open on each. */
export function PartLine({
  build,
  here,
  choose,
}: {
  build: BuildRecord;
  here: string | undefined;
  choose: (part: string) => void;
}) {
  return (
    <nav className="part-line" aria-label="Parts">
      {build.parts.map(({ facts }) => {
        const open = build.findings.filter((finding) => finding.part === facts.part).length;
        return (
          <button
            key={facts.part}
            className="plain"
            aria-pressed={facts.part === here}
            onClick={() => choose(facts.part)}
          >
            {facts.called}
            {open > 0 && <span className="soft"> {open}</span>}
          </button>
        );
      })}
    </nav>
  );
}
