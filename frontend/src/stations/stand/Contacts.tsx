import { useState } from 'react';

import type { PartRecord } from '../../app/client';
import { count } from '../../app/units';
import styles from './stand.module.css';

const FEW = 8;

/** Every contact with what it bears, its tip, and what is to be known of it; those that want looking at first. */
export function Contacts({ part }: { part: PartRecord | undefined }) {
  const [all, setAll] = useState(false);
  const contacts = part?.facts.stance.contacts ?? [];
  if (!contacts.length) return null;
  const order = contacts
    .map((contact, k) => ({ contact, number: k + 1 }))
    .sort((a, b) => grave(b.contact) - grave(a.contact) || b.contact.load_N - a.contact.load_N);
  const shown = all ? order : order.slice(0, FEW);
  return (
    <>
      <h3>Contacts</h3>
      <table className={`limbs ${styles.table}`}>
        <thead>
          <tr>
            <th scope="col">contact</th>
            <th scope="col">bears, N</th>
            <th scope="col">tip, mm</th>
            <th scope="col">mm up</th>
            <th scope="col">to be known</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ contact, number }) => (
            <tr key={number}>
              <th scope="row">{number}</th>
              <td>{contact.load_N.toFixed(2)}</td>
              <td>{contact.tip_mm.toFixed(2)}</td>
              <td>{contact.point[2].toFixed(1)}</td>
              <td className={styles.known}>{known(contact)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {contacts.length > FEW && (
        <button className="plain" onClick={() => setAll(!all)}>
          <u>{all ? 'the gravest only' : `all ${count(contacts.length, 'contact')}`}</u>
        </button>
      )}
    </>
  );
}

type Contact = PartRecord['facts']['stance']['contacts'][number];

const grave = ({ reachable, shows, on_figure }: Contact): number =>
  (reachable === false ? 4 : 0) + (shows ? 2 : 0) + (on_figure ? 1 : 0);

const known = ({ reachable, shows, on_figure, by_hand }: Contact): string =>
  [
    reachable === false && 'no cutters reach it',
    shows && 'on the side that shows',
    on_figure && 'stands on the figure',
    by_hand && 'by hand',
  ]
    .filter(Boolean)
    .join(', ') || 'cutters reach it';
