/** The server's API, typed by its OpenAPI document. Every failure is thrown as a {@link ProblemError}. */
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Problem = Schemas['ProblemInfo'];
export type Brief = Schemas['Brief'];
export type QueryDetail = Schemas['QueryDetail'];
export type QueryLine = Schemas['QueryLine'];
export type Desk = Schemas['Desk'];
export type Column = Schemas['ColumnInfo'];
export type Snapshot = Schemas['SnapshotInfo'];
export type Run = Schemas['RunInfo'];
export type Preview = Schemas['PreviewInfo'];
export type Call = Schemas['CallInfo'];
export type FirstCall = Schemas['FirstCall'];
export type Service = Schemas['Service'];
export type ServiceInfo = Schemas['ServiceInfo'];
export type Check = Schemas['CheckOut'];
export type Pasted = Schemas['PasteOut'];
export type Comparison = Schemas['ComparisonInfo'];
export type MergedRow = Schemas['MergedRow'];
export type Trace = Schemas['Trace'];
export type Parameter = Brief['parameters'][number];
export type LookUp = Brief['look_up'][number];
export type ColumnSpec = NonNullable<Brief['take']['columns']>[number];
export type Kind = Column['kind'];
export type Key = Schemas['Key'];
export type KeyInfo = Schemas['KeyInfo'];
export type Choice = Schemas['Choice'];
export type Ask = Schemas['Ask'];
export type Pair = Schemas['Pair'];
export type Each = Brief['each'][number];
export type SheetInfo = Schemas['SheetInfo'];
export type SheetPreview = Schemas['SheetPreview'];
export type ImportPlan = Schemas['ImportPlanInfo'];
export type About = Schemas['About'];
export type Attention = Schemas['AttentionInfo'];
export type Verification = Schemas['VerificationOut'];
export type Cost = Schemas['CostOut'];
export type Plan = Schemas['PlanOut'];
export type ListReduction = NonNullable<ColumnSpec['reduction']>;
export type Reads = Schemas['Reads'];
export type RecordsGuess = Schemas['RecordsGuessInfo'];
export type Profile = Schemas['ProfileInfo'];
export type TypeGuess = Schemas['TypeGuessInfo'];
export type View = { sort: Schemas['SortBy'][]; where: Condition[] };
export type Condition = NonNullable<Schemas['View']['where']>[number];
export type TableRef = { snapshot: number | null; preview: number | null };
export type AnswerNode = Schemas['NodeInfo'];
export type Nodes = Schemas['NodesOut'];
export type Searched = Schemas['SearchOut'];
export type AnswerText = Schemas['AnswerText'];
export type Saved = Schemas['SavedInfo'];
export type RowFlowStep = Schemas['RowFlowStepInfo'];
export type RunReport = Run['report'];
export type Progress = Schemas['RunProgress'];
export type Tile = Progress['tiles'][number];
export type Given = string | string[] | null;
export type Values = Record<string, Given>;

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.what);
  }
}

const unreached: Problem = {
  kind: 'unreached',
  what: 'Tin Bucket does not answer.',
  where: '',
  do: 'Look whether it still runs, then try again. What you typed is still here.',
  words: '',
};

export const api = createClient<paths>({ baseUrl: '/' });

interface Result<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Wait for a call of {@link api} and give its data, or throw what went wrong. */
export async function ask<T>(call: Promise<Result<T>>): Promise<T> {
  let result: Result<T>;
  try {
    result = await call;
  } catch {
    throw new ProblemError(unreached);
  }
  if (!result.response.ok) {
    const error = result.error as Partial<Problem> | undefined;
    throw new ProblemError({
      kind: error?.kind ?? 'http',
      what: error?.what ?? `The server answered with status ${result.response.status}.`,
      where: error?.where ?? '',
      do: error?.do ?? 'Try again.',
      words: error?.words ?? '',
    });
  }
  return result.data as T;
}

/** What to show for something that was caught. */
export function problemOf(error: unknown): Problem {
  if (error instanceof ProblemError) return error.problem;
  const what = error instanceof Error ? error.message : String(error);
  return { kind: 'page-fault', what, where: 'this page', do: 'Load the page again.', words: '' };
}

/** How a file is read; what is left out is found out. */
export interface SheetReading {
  separator?: string;
  encoding?: string;
  header?: boolean;
  skip?: number;
  tab?: string;
}

async function sendFile<T>(address: string, query: Record<string, unknown>, data: Blob | string): Promise<T> {
  const pairs = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
  const text = new URLSearchParams(pairs.map(([name, value]) => [name, String(value)])).toString();
  const response = await fetch(`${address}?${text}`, { method: 'POST', body: data }).catch(() => null);
  if (!response) throw new ProblemError(unreached);
  const body = await response.json();
  if (!response.ok) throw new ProblemError(body as Problem);
  return body as T;
}

/** The first rows of a file; nothing is kept. */
export const lookAtSheet = (file: string, data: Blob | string, reading: SheetReading) =>
  sendFile<SheetPreview>('/api/sheets/look', { file, ...reading }, data);

/** Keep a file in the workspace. */
export const keepSheet = (
  name: string,
  file: string,
  data: Blob | string,
  reading: SheetReading,
  replace = false,
) => sendFile<SheetInfo>('/api/sheets', { name, file, replace, ...reading }, data);

export type Cell = null | boolean | number | string | { miss: string; words: string };

/** An answer of a preview or of a run, told part by part. */
export interface AnswerAt {
  preview?: number;
  run?: number;
  /** Index of the answer in its preview, or number of the call in its run. */
  index: number;
}

async function plain<T>(address: string): Promise<T> {
  const response = await fetch(address).catch(() => null);
  if (!response) throw new ProblemError(unreached);
  const body = await response.json();
  if (!response.ok) throw new ProblemError(body as Problem);
  return body as T;
}

const addressOf = (at: AnswerAt, what: string, query: Record<string, string | number>): string => {
  const base =
    at.preview !== undefined
      ? `/api/previews/${at.preview}/answers/${at.index}`
      : `/api/runs/${at.run}/calls/${at.index}`;
  const pairs = Object.entries(query).map(([name, value]) => [name, String(value)]);
  return `${base}/${what}?${new URLSearchParams(pairs).toString()}`;
};

/** Some children of a node of an answer. */
export const answerNodes = (at: AnswerAt, pointer: string, start: number, count: number): Promise<Nodes> =>
  plain<Nodes>(addressOf(at, 'nodes', { pointer, start, count }));

/** The nodes of an answer whose name or value has a text in it. */
export const searchAnswer = (at: AnswerAt, text: string): Promise<Searched> =>
  plain<Searched>(addressOf(at, 'search', { text }));

/** A part of an answer's text as it came. */
export const answerText = (at: AnswerAt, start: number): Promise<AnswerText> =>
  plain<AnswerText>(addressOf(at, 'text', { start }));
