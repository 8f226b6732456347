import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';

// The folders from the ground up: each imports only what lies below it, and pages nothing of each other.
const PAGES = [
  'query',
  'services',
  'sheets',
  'feeds',
  'runs',
  'desk',
  'compare',
  'reports',
  'notices',
  'shell',
];
const FLOORS = ['api', 'domain', 'ui', 'parts', 'table', 'answers', 'workOut'];

/** @param {string} folder @param {string[]} others */
const without = (folder, others) => ({
  files: [`src/${folder}/**`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: others.map((other) => ({
          regex: `^(\\.\\./)+${other}/`,
          message: `${folder} imports nothing of ${other}.`,
        })),
      },
    ],
  },
});

export default ts.config(
  { ignores: ['node_modules', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  { languageOptions: { globals: { ...globals.browser } } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      // A snippet that takes an argument must be written out even where the argument is not used.
      'svelte/no-useless-children-snippet': 'off',
      // svelte-check warns of more than the compiler that runs here.
      'svelte/no-unused-svelte-ignore': 'off',
      // Addresses here are hash routes of the app itself and files of its own server.
      'svelte/no-navigation-without-resolve': 'off',
    },
  },
  {
    files: ['src/**'],
    ignores: ['src/api/json.ts', 'src/domain/jsontree.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        ...['parse', 'stringify'].map((property) => ({
          object: 'JSON',
          property,
          message: 'Use api/json, which keeps long numbers whole.',
        })),
      ],
    },
  },
  ...FLOORS.map((floor, at) => without(floor, [...FLOORS.slice(at + 1), ...PAGES])),
  ...PAGES.map((page) =>
    without(
      page,
      PAGES.filter((other) => other !== page),
    ),
  ),
);
