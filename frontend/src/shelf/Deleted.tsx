import Dialog from '@mui/material/Dialog';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type DeletedFigure, type DiskUse, type ShelfFigure } from '../app/client';
import { day } from '../app/units';
import { EditableNumber } from '../figure/Record';

/** What was deleted and can be put back, and how much of the disk everything takes. */
export function ShelfFoot() {
  const client = useQueryClient();
  const gone = useQuery({
    queryKey: ['deleted'],
    queryFn: () => dataOf<DeletedFigure[]>(api.GET('/api/shelf/deleted')),
  });
  const putBack = useMutation({
    mutationFn: (number: number) =>
      dataOf<DeletedFigure[]>(api.POST('/api/figures/{number}/put-back', { params: { path: { number } } })),
    onSuccess: (left) => {
      client.setQueryData(['deleted'], left);
      void client.invalidateQueries({ queryKey: ['shelf'] });
    },
  });
  return (
    <footer className="shelf-foot">
      <ul aria-label="Deleted figures">
        {gone.data?.map(({ id, name, gone: until }) => (
          <li key={id}>
            {name} was deleted.{' '}
            <button className="plain" onClick={() => putBack.mutate(id)}>
              <u>Put it back</u>
            </button>{' '}
            <span className="soft">(until {day(until)})</span>
          </li>
        ))}
      </ul>
      <ErrorLine says={putBack.error?.message} />
      <Disk />
    </footer>
  );
}

function Disk() {
  const client = useQueryClient();
  const use = useQuery({ queryKey: ['disk'], queryFn: () => dataOf<DiskUse>(api.GET('/api/disk')) });
  const set = useMutation({
    mutationFn: (gigabytes: number) =>
      dataOf<DiskUse>(api.PUT('/api/disk', { body: { budget_gb: gigabytes } })),
    onSuccess: (now) => client.setQueryData(['disk'], now),
  });
  if (!use.data) return null;
  const { taken_gb: taken, budget_gb: budget } = use.data;
  return (
    <p className="disk">
      Figures and results take {taken.toFixed(1)} of at most{' '}
      <EditableNumber label="Most that they may take" value={budget} unit="GB" save={set.mutate} /> GB of this
      disk
      <span className="soft">; beyond it the oldest results go, which can be made again.</span>
      {set.error && (
        <span className="error" role="alert">
          {' '}
          {set.error.message}
        </span>
      )}
    </p>
  );
}

/** Asks once, then deletes a figure. */
export function DeleteFigure({ figure, close }: { figure: ShelfFigure; close: () => void }) {
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      dataOf<DeletedFigure[]>(
        api.DELETE('/api/figures/{number}', { params: { path: { number: figure.id } } }),
      ),
    onSuccess: (left) => {
      close();
      client.setQueryData(['deleted'], left);
      void client.invalidateQueries({ queryKey: ['shelf'] });
    },
  });
  return (
    <Dialog open onClose={close} aria-labelledby={`delete-${figure.id}`}>
      <div className="keys-sheet">
        <h2 id={`delete-${figure.id}`}>Delete {figure.name}?</h2>
        <p>
          It leaves the shelf with its record, versions and releases, and its checks are ended. For thirty
          days it can be put back from the foot of the shelf; then it is gone for good. Files that were saved
          elsewhere are not touched.
        </p>
        <ErrorLine says={remove.error?.message} />
        <button className="ruled" autoFocus onClick={() => remove.mutate()} disabled={remove.isPending}>
          Delete it
        </button>{' '}
        <button className="plain" onClick={close}>
          <u>keep it</u>
        </button>
      </div>
    </Dialog>
  );
}
