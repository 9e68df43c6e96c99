import type { BuildRecord, Finding, Station } from '../app/client';

/** What an undo changed, or that the edition in the address is gone. */
export function toldOf(told: string, asked: string, looked: string): string {
  return told || (asked && asked !== looked ? 'The edition in the address is gone: this is the first.' : '');
}

/** What is said while nothing is measured. */
export function firstSays(checking: boolean, sounded: boolean): string {
  const measuring = checking ? '' : 'Measuring the figure; the first findings come in a moment.';
  return measuring + (sounded ? ' The walls on the chart are sounded coarsely until then.' : '');
}

/** The part that is drawn: the one asked for, else that of the finding in focus, else the first. */
export function shownPart(build: BuildRecord | null, asked: string | null, found: string | undefined) {
  const named = (name: string | null | undefined) => build?.parts.find(({ facts }) => facts.part === name);
  return named(asked) ?? named(found) ?? build?.parts[0];
}

/** A finding with one of its places in focus. */
export function atSpot(finding: Finding, spot: number): Finding {
  return { ...finding, where: finding.places[spot] ?? finding.where };
}

/** The station a careful person would look at first. */
export function firstOpen(findings: Finding[] | undefined): Station {
  return findings?.[0]?.station ?? 'gauge';
}
