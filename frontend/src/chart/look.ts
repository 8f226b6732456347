/** The colours of charts: damson, blue-grey, straw and their neighbours. Lines differ in their dashes too, and points in
 * their shapes, so that nothing is told by colour alone. */

export interface Look {
  ink: string;
  muted: string;
  faint: string;
  line: string;
  paper: string;
  series: string[];
}

const LIGHT: Look = {
  ink: '#1e242b',
  muted: '#5f6975',
  faint: '#c4cad2',
  line: '#e3e6ea',
  paper: '#ffffff',
  series: [
    '#6b2a5f', '#2f5878', '#b07d00', '#7b8794', '#b45f93', '#5b93b8',
    '#6d5300', '#3d454f', '#cf9dc3', '#9fc0d6', '#d3b655', '#aeb6c0',
  ],
}; // prettier-ignore

const DARK: Look = {
  ink: '#e6e9ed',
  muted: '#a0aab6',
  faint: '#4a535e',
  line: '#2f363f',
  paper: '#1b1f24',
  series: [
    '#dba3cf', '#93bbdc', '#ecd57c', '#a0aab6', '#b671a6', '#5f93bd',
    '#bd9a35', '#d5dae0', '#8b5580', '#456f91', '#857233', '#69727d',
  ],
}; // prettier-ignore

export const lookOf = (dark: boolean): Look => (dark ? DARK : LIGHT);

const DASHES: (number[] | 'solid')[] = ['solid', [7, 4], [2, 3], [9, 3, 2, 3]];
const SHAPES = [
  'circle',
  'rect',
  'triangle',
  'diamond',
  'emptyCircle',
  'emptyRect',
  'emptyTriangle',
  'emptyDiamond',
];

/** The dashes of a line; the first four of one chart are told apart by them alone. */
export const dashOf = (at: number): number[] | 'solid' => DASHES[at % DASHES.length] ?? 'solid';
export const shapeOf = (at: number): string => SHAPES[at % SHAPES.length] ?? 'circle';

export const FONT =
  "'Atkinson Hyperlegible Next Variable', 'Atkinson Hyperlegible Next', system-ui, sans-serif";
