import type { ReactNode } from 'react';
import { Link } from 'react-router';

import { LightSwitch } from '../app/LightSwitch';

/** The head of a sheet that lies beside the shelf. */
export function SheetHead({ name, children }: { name: string; children?: ReactNode }) {
  return (
    <header className="head">
      <Link className="name" to="/">
        Ulvet
      </Link>
      <h1 style={{ font: 'inherit' }}>
        <Link to="/">Shelf</Link>, <b>{name}</b>
      </h1>
      <span className="right">
        {children}
        <LightSwitch />
      </span>
    </header>
  );
}
