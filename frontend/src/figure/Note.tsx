import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';

import { api, dataOf, type BuildRecord, type Finding, type Remedy, type SectionDrawing } from '../app/client';
import { Mark } from '../app/Mark';
import { LayerDrawing } from '../stations/layers/LayerDrawing';
import { acceptable, Accepting } from './Accepting';
import { KeyRow, type RowKey } from './KeyRow';
import { Naming } from './Naming';
import { Places } from './Places';
import { canBeDrawn, proposal } from './propose';
import { Remedies } from './Remedies';
import { Scale } from './Scale';
import { Section } from './Section';
import { SideBySide } from './SideBySide';

const SAYS = { stop: 'stops the release', caution: 'wants care', note: 'worth knowing' } as const;

interface Props {
  figure: number;
  build: BuildRecord;
  number: number;
  finding: Finding;
  place: string;
  /** Keys that go to other findings. */
  turns: RowKey[];
  /** Keys of how it is drawn, and of its ways out. */
  ways: RowKey[];
  material: string;
  /** In which editions its remedy would hold; nothing where there is one edition. */
  holds?: ReactNode;
  remedy: number;
  chooseRemedy: (remedy: number) => void;
  apply: () => void;
  previewing: boolean;
  /** Whether all ways out are tried beside each other. */
  besides: boolean;
  /** Which of its places is in focus. */
  spot: number;
  chooseSpot: (spot: number) => void;
  /** Lets it be, with a reason. */
  accept: (reason: string) => void;
  /** Number of the proof in which exactly this came out, where there is one. */
  heldIn?: number | null;
  /** Gives its place a name. */
  rename: (name: string) => void;
  large: boolean;
}

/** One finding as a surveyor's note: its drawing and the value on a scale if it has a place, why it matters, and the
 * ways out. */
export function Note(props: Props) {
  const { figure, build, number, finding, place, material, remedy, chooseRemedy, apply, previewing, large } =
    props;
  const { besides, spot } = props;
  const chosen = finding.remedies[remedy];
  const asked = (k: number) =>
    proposal({ figure, build: build.key, finding: number, part: finding.part, spot, remedy: k });
  const drawing = useQuery({
    queryKey: ['section', build.key, number, spot, finding.title],
    queryFn: () =>
      dataOf<SectionDrawing>(
        api.GET('/api/builds/{key}/sections/{finding}', {
          params: {
            path: { key: build.key, finding: number },
            query: { place: spot, ...(finding.station === 'proof' ? { figure } : {}) },
          },
        }),
      ),
    enabled: finding.where !== null,
    staleTime: Infinity,
  });
  const tried = useQuery({
    ...asked(remedy),
    enabled: previewing && canBeDrawn(chosen),
  });
  return (
    <>
      <div className="topline">
        <span>{finding.accepted ? 'accepted' : SAYS[finding.severity]}</span>
        <KeyRow keys={props.turns} />
        <span>{place}</span>
      </div>
      <h2>
        <Mark severity={finding.severity} size={15} />
        {finding.title}
      </h2>
      {!finding.where ? null : finding.station === 'layers' ? (
        <LayerDrawing key={number} build={build} finding={finding} large={large} />
      ) : drawing.data && besides ? (
        <SideBySide
          build={build}
          finding={finding}
          drawing={drawing.data}
          asked={asked}
          chosen={remedy}
          choose={chooseRemedy}
        />
      ) : drawing.data ? (
        <Section
          drawing={drawing.data}
          proposal={previewing ? (tried.data?.drawing ?? null) : null}
          grown={previewing ? growth(chosen, build) : null}
          height={large ? 300 : 168}
        />
      ) : (
        <div className="drawing soft" style={{ height: 168, padding: 12 }}>
          {drawing.isError ? drawing.error.message : 'Cutting the section …'}
        </div>
      )}
      {finding.where && <KeyRow keys={props.ways} />}
      {previewing && tried.isFetching && <p className="soft">Trying it …</p>}
      {previewing && tried.isError && <p className="error">{tried.error.message}</p>}
      {previewing && tried.data?.said && <p className="soft">{tried.data.said}</p>}
      {finding.where && finding.station !== 'proof' && <Scale finding={finding} material={material} />}
      <p className="why">{finding.why}</p>
      {(finding.where || finding.remedies.length > 0) && (
        <Remedies remedies={finding.remedies} chosen={remedy} choose={chooseRemedy} apply={apply} />
      )}
      {finding.remedies[remedy]?.change.does === 'add-steps' && props.holds}
      {acceptable(finding) && (
        <Accepting key={`${build.key} ${number}`} accept={props.accept} heldIn={props.heldIn} />
      )}
      {finding.at && finding.where && (
        <Naming key={`${build.key} ${number} name`} at={finding.at} rename={props.rename} />
      )}
      <Places finding={finding} spot={spot} choose={props.chooseSpot} />
    </>
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
