import { Link } from 'react-router';

/** In place of a sheet that cannot be opened. */
export function Missing({ says }: { says: string }) {
  return (
    <div className="empty">
      <h2>This sheet cannot be opened</h2>
      <p>{says}</p>
      <Link to="/">Back to the shelf</Link>
    </div>
  );
}
