import type { ReactNode } from 'react';
import { Link } from 'react-router';

import { LightSwitch } from '../app/LightSwitch';

/** The head of a sheet that lies beside the shelf, or by a figure it was opened from. */
export function SheetHead({
  name,
  by,
  children,
}: {
  name: string;
  by?: { name: string; to: string } | undefined;
  children?: ReactNode;
}) {
  return (
    <header className="head">
      <Link className="name" to="/">
        Ulvet
      </Link>
      <h1 style={{ font: 'inherit' }}>
        <Link to="/">Shelf</Link>, {by && <Link to={by.to}>{by.name}</Link>}
        {by && ', '}
        <b>{name}</b>
      </h1>
      <span className="right">
        {children}
        <LightSwitch />
      </span>
    </header>
  );
}
