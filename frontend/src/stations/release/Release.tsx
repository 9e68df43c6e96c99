import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type JobView, type ReleaseView } from '../../app/client';
import { ended } from '../../app/jobs';
import { Mark } from '../../app/Mark';
import { bytes, count, moment } from '../../app/units';
import type { Sheet } from '../../figure/sheet';

/** Packs a release. */
export function Pack({ page, acts }: Pick<Sheet, 'page' | 'acts'>) {
  const client = useQueryClient();
  const key = ['releases', page.id];
  const path = { number: page.id };
  const make = useMutation({
    mutationFn: async () => {
      const done = await ended(
        await dataOf<JobView>(api.POST('/api/figures/{number}/releases', { params: { path } })),
      );
      if (done.state !== 'done') throw new Error(done.error || 'Packing was stopped; nothing was written.');
      await client.invalidateQueries({ queryKey: key });
      return done;
    },
  });
  return (
    <>
      <p className="why">
        STL and 3MF at print size, the recipe, a sheet for buyers with cautions, and a manifest with the
        SHA-256 of every file. It says whether exactly this was proofed, and names what is open.
      </p>
      <button className="ruled" disabled={make.isPending || acts.stale} onClick={() => make.mutate()}>
        {make.isPending ? 'Packing …' : 'Pack a release'}
      </button>
      {acts.stale && <p className="soft">Wait until the figure is checked.</p>}
      {make.isError && <p className="error">{make.error.message}</p>}
      <Packed page={page} />
    </>
  );
}

/** The files of the releases that were packed. */
function Packed({ page }: Pick<Sheet, 'page'>) {
  const releases = useQuery({
    queryKey: ['releases', page.id],
    queryFn: () =>
      dataOf<ReleaseView[]>(
        api.GET('/api/figures/{number}/releases', { params: { path: { number: page.id } } }),
      ),
  });
  return (
    <>
      {releases.isError && <p className="error">{releases.error.message}</p>}
      <ul className="plain-list" aria-label="Releases">
        {releases.data?.map((release) => (
          <li key={release.id}>
            <a href={`/api/releases/${release.id}.zip`} download={release.file_name}>
              {release.file_name}
            </a>
            , {bytes(release.zip_bytes)}, {release.files.length} files{' '}
            <span className="soft">
              {release.edition}, {moment(release.made)}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** What would stop a release, and the files of those that were packed. */
export function Releases({ page, build }: Pick<Sheet, 'page' | 'build'>) {
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
      <p>{page.editions.find(({ id }) => id === page.looked)?.proofed}</p>
      <Packed page={page} />
    </>
  );
}

/** What a release names, and the cautions that go with it. */
export function NamedInIt({ page, build }: Pick<Sheet, 'page' | 'build'>) {
  const { findings: open, unseen } = build;
  return (
    <>
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
