import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Air } from '../../app/client';
import { anyNumberIn } from '../Fields';
import styles from './finish.module.css';

const KEY = ['air'];

/** The air where it is painted, which has to suit the paints. */
export function AirLine() {
  const client = useQueryClient();
  const air = useQuery({ queryKey: KEY, queryFn: () => dataOf<Air>(api.GET('/api/air')) });
  const say = useMutation({
    mutationFn: (body: Air) => dataOf<Air>(api.PUT('/api/air', { body })),
    onSuccess: (after) => {
      client.setQueryData(KEY, after);
      void client.invalidateQueries({ queryKey: ['figure'] });
    },
  });
  const now = air.data;
  if (!now) return null;
  const field = (name: 'temperature' | 'damp', label: string, unit: string) => (
    <label>
      {label}{' '}
      <input
        type="text"
        inputMode="decimal"
        size={4}
        key={String(now[name])}
        defaultValue={now[name] ?? ''}
        onBlur={({ target }) => {
          const value = target.value.trim() === '' ? null : anyNumberIn(target.value);
          if ((value !== null || target.value.trim() === '') && value !== (now[name] ?? null))
            say.mutate({ ...now, [name]: value });
        }}
      />{' '}
      {unit}
    </label>
  );
  return (
    <p className={styles.schemes}>
      {field('temperature', 'Where it is painted it has', '°C')}
      {field('damp', 'and', '% of damp')}
      {say.error && (
        <span className="error" role="alert">
          {say.error.message}
        </span>
      )}
    </p>
  );
}
