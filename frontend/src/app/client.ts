import createClient from 'openapi-fetch';

import type { components, paths } from '../api/schema';
import { isStation } from '../stations/names';

type Schemas = components['schemas'];
export type FigurePage = Schemas['FigurePage'];
export type ShelfFigure = Schemas['ShelfFigure'];
export type DeletedFigure = Schemas['DeletedFigure'];
export type DiskUse = Schemas['DiskUseView'];
export type Finding = Schemas['Finding'];
export type Remedy = Schemas['Remedy'];
export type BuildRecord = Schemas['BuildRecord'];
export type PartRecord = Schemas['PartRecord'];
export type JobView = Schemas['JobView'];
export type Edition = Schemas['Edition'];
export type StudioProfile = Schemas['StudioProfile'];
export type Station = Schemas['Station'];
export type StationView = Schemas['StationView'];
export type Unseen = Schemas['Unseen'];
export type StationFindings = Schemas['StationFindings'];
export type Marks = Schemas['Marks'];
export type Printer = Schemas['Printer'];
/** A setting with its printer and its material. */
export type Setup = Schemas['SetupView'];
export type EditionView = Schemas['EditionView'];
export type BenchView = Schemas['BenchView'];
export type ThingView = Schemas['ThingView'];
export type ValueRow = Schemas['ValueRow'];
export type SectionDrawing = Schemas['SectionDrawing'];
export type StepSentence = Schemas['StepSentence'];
/** A step of any kind with all its fields, as the recipe file writes it. */
export type Step = StepSentence['step'];
export type StepKind = Step['kind'];
export type StepOf<K extends StepKind> = Extract<Step, { kind: K }>;
/** Some of the fields of a step, to be set. */
export type FieldsOf<S extends Step> = Partial<Omit<S, 'kind' | 'id'>>;
/** A step to add: its kind and those of its fields that are said. */
export type NewStep = { [K in StepKind]: { kind: K } & FieldsOf<StepOf<K>> }[StepKind];
type StandKind = Schemas['StepFields']['kind'];
/** Fields of the last step of a kind by which a figure stands, to be set together. */
export type StepFields = { [K in StandKind]: { kind: K; values: FieldsOf<StepOf<K>> } }[StandKind];
export type TrialResult = Schemas['Trial'];
export type WantedPlan = Schemas['WantedPlan'];
export type PlanTold = Schemas['PlanTold'];
export type PlanView = Schemas['PlanView'];
export type WonTold = Schemas['WonTold'];
export type Conflicts = Schemas['Conflicts'];
export type RoomFound = Schemas['RoomFound'];
export type LoggedTime = Schemas['LoggedTime'];
export type PaintedView = Schemas['PaintedView'];
export type Mix = Schemas['Mix'];
export type MixView = Schemas['MixView'];
export type MixTold = Schemas['MixTold'];
export type Air = Schemas['Air'];
export type StockView = Schemas['StockView'];
export type StockEntered = Schemas['StockEntered'];
export type WaysTold = Schemas['WaysTold'];
export type DrawnWay = Schemas['DrawnWay'];
export type FigureProofs = Schemas['FigureProofs'];
export type ProofView = Schemas['ProofView'];
export type Came = Schemas['Came'];
export type Pin = Schemas['Pin'];
export type Cause = Schemas['Cause'];
export type Outcome = Schemas['Outcome'];
export type KeptReview = Schemas['KeptReview'];
export type PrintView = Schemas['PrintView'];
export type CouponPrint = Schemas['CouponPrint'];
export type LearntView = Schemas['LearntView'];
export type Comparison = Schemas['Comparison'];
export type VersionView = Schemas['VersionView'];
export type Sounding = Schemas['Sounding'];
export type ReleaseView = Schemas['ReleaseView'];
export type ReleaseSets = Schemas['ReleaseSets'];
export type ReleaseSetView = Schemas['ReleaseSetView'];
/** A release set as it is written. */
export type ReleaseSet = ReleaseSetView['release'];
export type ReleaseItem = ReleaseSet['items'][number];
export type Listing = ReleaseSet['listings'][number];
export type BuyerReport = ReleaseSet['reports'][number];
export type TermsList = Schemas['TermsList'];
export type EvidenceView = Schemas['EvidenceView'];
export type MeetingRecord = Schemas['MeetingRecord'];
export type Gauge = Schemas['FigureMeasures'];
export type Use = Schemas['Use'];
export type PictureView = Schemas['PictureView'];
export type ReferenceView = Schemas['ReferenceView'];
export type BitView = Schemas['BitView'];
export type ScannerView = Schemas['ScannerView'];
export type SizeWorked = Schemas['SizeWorked'];
export type Way = Schemas['AskSize']['way'];

/** Every write carries it; a page from elsewhere cannot send it. */
const WRITE_HEADER = 'X-Ulvet';

export const api = createClient<paths>({ baseUrl: '', headers: { [WRITE_HEADER]: 'page' } });

const UNREACHABLE =
  'Ulvet’s server does not answer; what was saved is safe. Start it again with “make demo”, then reload.';

/** The edition in the page's address; empty for a figure's first. */
export const lookedEdition = () => new URLSearchParams(window.location.search).get('edition') ?? '';

// The check of a figure begins at the sheet that is looked at, and what is asked is asked of the edition in the address.
api.use({
  onRequest: ({ request }) => {
    const [, sheet, , station] = window.location.pathname.split('/');
    if (sheet !== 'figures') return;
    if (isStation(station)) request.headers.set('X-Ulvet-Station', station);
    const edition = lookedEdition();
    if (edition && !request.headers.has('X-Ulvet-Edition')) request.headers.set('X-Ulvet-Edition', edition);
  },
});

/** An error whose text is for the user. */
class UserError extends Error {}

/**
 * The data of an answer, or its problem as an error with the server's sentence. The type is named by the caller, since
 * the client widens the fixed-length points of the contract to plain arrays.
 */
export async function dataOf<T>(
  answer: Promise<{ data?: unknown; error?: unknown; response: Response }>,
): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw new UserError(UNREACHABLE);
  }
  if (got.data !== undefined && got.response.ok) return got.data as T;
  throw new UserError(detailOf(got.error));
}

/** The figure whose source a file is to replace, and its revision that was seen. */
export interface Renewed {
  figure: number;
  revision: number;
}

/** Bring in a file, hearing how much of it is sent (0 to 1). */
export function sendFile(
  file: File,
  heard: (share: number) => void,
  renewed: Renewed | null,
): Promise<JobView> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    const query = `file_name=${encodeURIComponent(file.name)}`;
    if (renewed) {
      request.open('PUT', `/api/figures/${renewed.figure}/source?${query}`);
      request.setRequestHeader('If-Match', String(renewed.revision));
      request.setRequestHeader('X-Ulvet-Edition', lookedEdition());
    } else request.open('POST', `/api/figures?${query}`);
    request.setRequestHeader(WRITE_HEADER, 'page');
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.upload.onprogress = (event) => heard(event.total ? event.loaded / event.total : 0);
    request.onerror = () => reject(new UserError(UNREACHABLE));
    request.onload = () => {
      const answer: unknown = parsed(request.responseText);
      if (request.status < 300) resolve(answer as JobView);
      else reject(new UserError(detailOf(answer)));
    };
    request.send(file);
  });
}

function detailOf(problem: unknown): string {
  const detail = (problem as { detail?: unknown } | undefined)?.detail;
  return typeof detail === 'string' ? detail : UNREACHABLE;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Keep a file as evidence of terms. */
export const sendEvidence = (file: File) => sendKept<EvidenceView>('evidence', file);

/** Keep a picture for stamps. */
export const sendPicture = (file: File) => sendKept<PictureView>('pictures', file);

/** Sends a picture to be drawn behind a figure. */
export const sendReference = (file: File) => sendKept<ReferenceView>('references', file);

/** Sends an answer to a review that came back. */
export const sendAnswer = (figure: number, edition: string, file: File) =>
  sent<KeptReview[]>(`figures/${figure}/reviews?edition=${encodeURIComponent(edition)}`, file);

const sendKept = <View>(where: string, file: File) =>
  sent<View>(`${where}?file_name=${encodeURIComponent(file.name)}`, file);

async function sent<View>(where: string, file: File): Promise<View> {
  const answer = await fetch(`/api/${where}`, {
    method: 'POST',
    headers: { [WRITE_HEADER]: 'page' },
    body: file,
  }).catch(() => {
    throw new UserError(UNREACHABLE);
  });
  const said: unknown = await answer.json();
  if (!answer.ok) throw new UserError(detailOf(said));
  return said as View;
}
