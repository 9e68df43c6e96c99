import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { ErrorLine } from '../../app/ErrorLine';
import { api, dataOf, type JobView, type ReleaseView } from '../../app/client';
import { ended } from '../../app/jobs';
import { Mark } from '../../app/Mark';
import { bytes, count, moment } from '../../app/units';
import type { Sheet } from '../../figure/sheet';

/** Packs the edition that is looked at by itself. */
export function PackAlone({ page, acts }: Pick<Sheet, 'page' | 'acts'>) {
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
        STL and 3MF at print size, the recipe, a sheet with cautions, and a manifest with the SHA-256 of every
        file: for somebody who tries it out, outside any set.
      </p>
      <button className="ruled" disabled={make.isPending || acts.stale} onClick={() => make.mutate()}>
        {make.isPending ? 'Packing …' : 'Pack it'}
      </button>
      {acts.stale && <p className="soft">Wait until the figure is checked.</p>}
      <ErrorLine says={make.error?.message} />
      <Packed page={page} />
    </>
  );
}

/** The files of the editions that were packed by themselves. */
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
      <ErrorLine says={releases.error?.message} />
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

/** What a release names, and the cautions that go with it. */
export function NamedInIt({ page, build }: Pick<Sheet, 'page' | 'build'>) {
  const { findings: open, unseen } = build;
  return (
    <>
      {open.length + unseen.length > 0 && <h3>Open on this edition, and named in a release</h3>}
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
