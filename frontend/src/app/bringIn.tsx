import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';

import { api, sendFile, dataOf, type JobView, type Renewed } from './client';
import type { Form } from './forms';
import { JobLine } from './JobLine';
import { ended } from './jobs';

/** A first form that a figure begins with, mm. */
export interface Begun {
  name: string;
  form: Form;
  wide: number;
  deep: number;
  tall: number;
}

interface OnItsWay {
  says: string;
  share: number;
  job?: JobView;
}

/** Bringing in a file: as a new figure, whose sheet is then shown, or as the new sculpt of one. */
export function useBringIn() {
  const [coming, setComing] = useState<OnItsWay | null>(null);
  const [error, setError] = useState('');
  const client = useQueryClient();
  const navigate = useNavigate();

  async function follow(says: string, asked: Promise<JobView>, renewed: Renewed | null = null, at = '') {
    setError('');
    setComing({ says, share: 0 });
    try {
      const job = await asked;
      setComing({ says, share: 1, job });
      const done = await ended(job);
      void client.invalidateQueries({ queryKey: renewed ? ['figure', renewed.figure] : ['shelf'] });
      if (done.state === 'failed') setError(done.error);
      else if (done.made.figure && !renewed) await navigate(`/figures/${done.made.figure}${at}`);
    } catch (problem) {
      setError((problem as Error).message);
    } finally {
      setComing(null);
    }
  }
  const bringIn = (file: File, renewed: Renewed | null = null) => {
    const says = `Sending ${file.name}`;
    return follow(
      says,
      sendFile(file, (share) => setComing({ says, share }), renewed),
      renewed,
    );
  };
  // A form is only the beginning: what is put to it is at Bring in.
  const begin = (begun: Begun) =>
    follow(
      `Making ${begun.name}`,
      dataOf<JobView>(api.POST('/api/figures/forms', { body: begun })),
      null,
      '/bring-in',
    );
  return { coming, error, bringIn, begin };
}

/** How far a file on its way is: sent, then read. */
export function Coming({ coming }: { coming: OnItsWay | null }) {
  if (!coming) return null;
  if (coming.job) return <JobLine job={coming.job} />;
  return (
    <span className="job" role="status">
      <progress max={1} value={coming.share} aria-label={coming.says} /> {coming.says}
    </span>
  );
}

/** A button that asks for a file, a figure's unless told otherwise. */
export function FilePicker({
  says,
  take,
  disabled = false,
  accept = '.stl,.obj,.ply,.3mf,.glb,.zip',
  label = `${says}: choose its file`,
}: {
  says: string;
  take: (file: File) => void;
  disabled?: boolean;
  accept?: string;
  label?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button className="ruled" disabled={disabled} onClick={() => input.current?.click()}>
        {says}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={label}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) take(file);
        }}
      />
    </>
  );
}
