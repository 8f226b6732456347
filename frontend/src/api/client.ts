/** The server's API, typed by its OpenAPI document. Every failure is thrown as a {@link ProblemError}. */
import { readJson, writeJson } from './json';
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Feed = Schemas['Brief']['hand_over'][number];
export type FeedInfo = Schemas['FeedInfo'];
export type HandOver = Schemas['HandOverInfo'];
export type Ahead = Schemas['AheadInfo'];
export type Schemas = components['schemas'];
export type Problem = Schemas['ProblemInfo'];
export type Brief = Schemas['Brief'];
export type QueryDetail = Schemas['QueryDetail'];
export type QueryLine = Schemas['QueryLine'];
export type Draft = Schemas['DraftInfo'];
export type Desk = Schemas['Desk'];
export type Column = Schemas['ColumnInfo'];
export type Snapshot = Schemas['SnapshotInfo'];
export type Timeline = Schemas['TimelineInfo'];
export type SnapshotWeights = Schemas['SnapshotWeights'];
export type SnapshotsChecked = Schemas['CheckedInfo'];
export type Going = Schemas['GoingInfo'];
export type Run = Schemas['RunInfo'];
export type Preview = Schemas['PreviewInfo'];
export type Call = Schemas['CallInfo'];
export type FirstCall = Schemas['FirstCall'];
export type Service = Schemas['Service'];
export type ServiceInfo = Schemas['ServiceInfo'];
export type Check = Schemas['CheckOut'];
export type Pasted = Schemas['PasteOut'];
export type Comparison = Schemas['ComparisonInfo'];
export type Side = Schemas['SideInfo'];
export type MatchProposal = Schemas['MatchProposalInfo'];
export type Story = Schemas['StoryInfo'];
export type FigureLine = Schemas['FigureLine'];
export type WatchInfo = Schemas['WatchInfo'];
export type ChangeLine = Schemas['ChangeInfo'];
export type DifferenceTotals = Schemas['DifferenceTotalsInfo'];
export type DifferenceGroups = Schemas['DifferenceGroupsInfo'];
export type Chart = NonNullable<Brief['show']>[number];
export type ChartMade = Schemas['DrawingInfo'];
export type Report = Schemas['Report'];
export type ReportBlock = Report['blocks'][number];
export type ReportFigure = Report['figures'][number];
export type ReportRead = Schemas['ReportRead'];
export type ReportSource = Schemas['ReportSource'];
export type BlockRead = Schemas['BlockInfo'];
export type FigureNow = Schemas['FigureNow'];
export type Notice = Schemas['Notice'];
export type NoticeInfo = Schemas['NoticeInfo'];
export type Notices = Schemas['NoticesOut'];
export type Offers = Schemas['OffersOut'];
export type Proposals = Schemas['ProposalsInfo'];
export type AlikeRule = Comparison['alike'][number];
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
export type Finding = Schemas['FindingInfo'];
export type Asked = Schemas['AskedInfo'];
export type Cost = Schemas['CostOut'];
export type Plan = Schemas['PlanOut'];
export type ListReduction = NonNullable<ColumnSpec['reduction']>;
export type Reads = Schemas['Reads'];
export type RecordsGuess = Schemas['RecordsGuessInfo'];
export type Format = Schemas['FormatInfo'];
export type Formulas = Schemas['FormulasInfo'];
export type Profile = Schemas['ProfileInfo'];
export type ColumnValues = Schemas['ValuesOut'];
export type TypeGuess = Schemas['TypeGuessInfo'];
export type View = { sort: Schemas['SortBy'][]; where: Condition[] };
export type Condition = NonNullable<Schemas['View']['where']>[number];
export type TableRef = {
  snapshot: number | null;
  preview: number | null;
  query_id?: number | null;
  starts_from?: Start | null;
  lines: Line[];
  look?: Look | null;
};
export type Start = NonNullable<Brief['start']>;
export type Chain = Schemas['ChainInfo'];
export type Line = Brief['work_out'][number];
export type ReadThen = Schemas['ReadThen'];
export type Look = Schemas['LookRef'];
export type WorkOut = Schemas['WorkOutInfo'];
export type LineDone = Schemas['LineInfo'];
export type LineOffer = Schemas['OfferInfo'];
export type LineKind = Schemas['LineKindInfo'];
export type Sample = Schemas['SampleInfo'];
export type OtherTable = Schemas['OtherInfo'];
export type TableName = Schemas['TableNameInfo'];
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
  do: 'Check that it is still running, then try again. What you typed is still here.',
  words: '',
};

/** A file goes as it is, everything else as JSON. */
const written = (body: unknown): string | Blob =>
  typeof body === 'string' || body instanceof Blob ? body : writeJson(body);

export const api = createClient<paths>({ baseUrl: '/', bodySerializer: written as () => string });

api.use({
  async onResponse({ response }) {
    // An answer without content (204) must stay one.
    const isJson = response.headers.get('Content-Type')?.includes('json');
    if (!isJson || response.status === 204) return undefined;
    const text = await response.text();
    const exact = new Response(text, { status: response.status, headers: response.headers });
    // The client reads a body of known length with json(), and that one keeps long numbers whole.
    exact.headers.set('Content-Length', String(text.length));
    exact.json = () => Promise.resolve(readJson(text));
    return exact;
  },
});

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

// The body is the file itself, which OpenAPI has no type for.
const asBody = (data: Blob | string) => ({
  body: data as never,
  headers: { 'Content-Type': 'application/octet-stream' },
});

/** The first rows of a file; nothing is kept. */
export const lookAtSheet = (
  file: string,
  data: Blob | string,
  reading: SheetReading,
): Promise<SheetPreview> =>
  ask(api.POST('/api/sheets/look', { params: { query: { file, ...reading } }, ...asBody(data) }));

/** Keep a file in the workspace. */
export const keepSheet = (
  name: string,
  file: string,
  data: Blob | string,
  reading: SheetReading,
  replace = false,
): Promise<SheetInfo> =>
  ask(api.POST('/api/sheets', { params: { query: { name, file, replace, ...reading } }, ...asBody(data) }));

export type Cell = null | boolean | number | string | { miss: string; words: string };

/** An answer of a preview or of a run, told part by part. */
export interface AnswerAt {
  preview?: number;
  run?: number;
  /** Index of the answer in its preview, or number of the call in its run. */
  index: number;
}

/** Some children of a node of an answer. */
export const answerNodes = (at: AnswerAt, pointer: string, start: number, count: number): Promise<Nodes> => {
  const query = { pointer, start, count };
  return at.preview !== undefined
    ? ask(
        api.GET('/api/previews/{number}/answers/{index}/nodes', {
          params: { path: { number: at.preview, index: at.index }, query },
        }),
      )
    : ask(
        api.GET('/api/runs/{run_id}/calls/{number}/nodes', {
          params: { path: { run_id: at.run ?? 0, number: at.index }, query },
        }),
      );
};

/** The nodes of an answer whose name or value has a text in it. */
export const searchAnswer = (at: AnswerAt, text: string): Promise<Searched> =>
  at.preview !== undefined
    ? ask(
        api.GET('/api/previews/{number}/answers/{index}/search', {
          params: { path: { number: at.preview, index: at.index }, query: { text } },
        }),
      )
    : ask(
        api.GET('/api/runs/{run_id}/calls/{number}/search', {
          params: { path: { run_id: at.run ?? 0, number: at.index }, query: { text } },
        }),
      );

/** A part of an answer's text as it came. */
export const answerText = (at: AnswerAt, start: number): Promise<AnswerText> =>
  at.preview !== undefined
    ? ask(
        api.GET('/api/previews/{number}/answers/{index}/text', {
          params: { path: { number: at.preview, index: at.index }, query: { start } },
        }),
      )
    : ask(
        api.GET('/api/runs/{run_id}/calls/{number}/text', {
          params: { path: { run_id: at.run ?? 0, number: at.index }, query: { start } },
        }),
      );
