import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import {
  api,
  told,
  type BuildRecord,
  type FigurePage,
  type JobView,
  type PartRecord,
  type ReleaseView,
} from '../app/client';
import { ended } from '../app/jobs';
import { Mark } from '../app/Mark';
import { moment, bytes, count, duration } from '../app/units';
import type { FigureActs } from '../figure/useFigure';
import { LayerDrawing } from './LayerDrawing';

interface Props {
  page: FigurePage;
  build: BuildRecord;
  acts: FigureActs;
  large: boolean;
  /** The part that is drawn. */
  part?: PartRecord | undefined;
}

/** A station at which nothing was found. */
export function ClearPanel({ says }: { says: string }) {
  return (
    <>
      <h2>Nothing to mark here</h2>
      <p>{says}</p>
    </>
  );
}

/** Layers, when no finding is in focus. */
export function LayersPanel({ build, part = build.parts[0], large }: Props) {
  const estimate = part?.estimate;
  return (
    <>
      <h2>What the printer will see</h2>
      <LayerDrawing key={part?.facts.part} build={build} part={part} large={large} />
      {estimate && (
        <p className="why">
          {count(estimate.layers, 'layer')}, {duration(estimate.seconds)}, {estimate.material_ml.toFixed(1)}{' '}
          ml, {estimate.money.toFixed(2)} of material (estimate).{' '}
          <span className="soft">{estimate.model}</span>
        </p>
      )}
    </>
  );
}

/** Release: what would go out, what is open, and the files. */
export function ReleasePanel({ page, build, acts }: Props) {
  const client = useQueryClient();
  const key = ['releases', page.id];
  const path = { number: page.id };
  const releases = useQuery({
    queryKey: key,
    queryFn: () => told<ReleaseView[]>(api.GET('/api/figures/{number}/releases', { params: { path } })),
  });
  const make = useMutation({
    mutationFn: async () => {
      const done = await ended(
        await told<JobView>(api.POST('/api/figures/{number}/releases', { params: { path } })),
      );
      if (done.state !== 'done') throw new Error(done.error || 'Packing was stopped; nothing was written.');
      await client.invalidateQueries({ queryKey: key });
      return done;
    },
  });
  const open = build.findings;
  const stops = open.filter((finding) => finding.severity === 'stop').length;
  const { unseen } = build;
  return (
    <>
      <h2>
        {stops
          ? `${count(stops, 'finding')} would stop a careful release`
          : unseen.length
            ? 'Not all of it was seen'
            : 'Ready to pack'}
      </h2>
      <p className="why">
        Packs the figure as STL and 3MF at print size, the recipe, a sheet for buyers with cautions, and a
        manifest with the SHA-256 of every file. It says openly that it was not proofed, and names{' '}
        {open.length || unseen.length ? 'what is open' : 'that nothing is open'}.
      </p>
      <button className="ruled" disabled={make.isPending || acts.stale} onClick={() => make.mutate()}>
        {make.isPending ? 'Packing …' : 'Pack a release'}
      </button>
      {acts.stale && <p className="soft">Wait until the figure is checked.</p>}
      {make.isError && <p className="error">{make.error.message}</p>}
      {releases.isError && <p className="error">{releases.error.message}</p>}
      <ul className="plain-list" aria-label="Releases">
        {releases.data?.map((release) => (
          <li key={release.id}>
            <a href={`/api/releases/${release.id}.zip`} download={release.file_name}>
              {release.file_name}
            </a>
            , {bytes(release.zip_bytes)}, {release.files.length} files{' '}
            <span className="soft">{moment(release.made)}</span>
          </li>
        ))}
      </ul>
      <p className="soft" style={{ margin: '10px 0' }}>
        For your own work:{' '}
        <a href={`/api/figures/${page.id}/walls.zip`} download>
          the walls in their tints
        </a>
        , as drawn here, an OBJ with texture that lies over your sculpt.
      </p>
      {open.length + unseen.length > 0 && <h3>Named in it</h3>}
      <ul className="plain-list">
        {unseen.map((gap) => (
          <li key={gap.part + gap.why}>{gap.why}</li>
        ))}
        {open.slice(0, 40).map((finding, k) => (
          <li key={k}>
            <Mark severity={finding.severity} /> {finding.title}
          </li>
        ))}
        {open.length > 40 && <li className="soft">and {count(open.length - 40, 'more', 'more')}</li>}
      </ul>
      <h3>Cautions that go with it</h3>
      <ul className="plain-list">
        {page.cautions.map((caution) => (
          <li key={caution}>{caution}</li>
        ))}
      </ul>
    </>
  );
}

/** A station that is not built. */
export function UnsurveyedPanel() {
  return (
    <>
      <h2>Not surveyed yet</h2>
      <p>
        This station is not built. Nothing was checked or changed here, and a release says nothing about it.
      </p>
    </>
  );
}
