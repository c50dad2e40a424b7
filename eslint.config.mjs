import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** Rooms of the core from the ground up; a room may use those below it and its neighbours, never those above. */
const FLOORS = [
  ['math', 'words'],
  ['mesh', 'body', 'voice'],
  ['skeleton', 'images'],
  ['motion'],
  ['shape', 'landmarks', 'adjust', 'retarget', 'pieces', 'layers', 'reach'],
  ['skin'],
  ['surface'],
  ['correct', 'mass'],
  ['root-motion'],
  ['cues'],
  ['trial'],
  ['perform', 'rig', 'strain', 'paint', 'corrective', 'handles', 'face', 'light'],
  ['props'],
  ['document'],
  ['packing'],
  ['formats', 'findings'],
  ['delivery'],
  ['recipe', 'batch'],
  ['steps'],
]

const oneWay = FLOORS.flatMap((rooms, floor) => {
  const above = FLOORS.slice(floor + 1).flat()
  const group = [
    ...above.flatMap(r => [`../${r}`, `../${r}/**`]),
    '@chiraxis/**',
    'three',
    'three/**',
    'vue',
    'vue/**',
    'node:*',
  ]
  return [
    {
      files: rooms.map(r => `core/src/${r}/**/*.ts`),
      ignores: ['**/*.test.ts'],
      rules: {
        'no-restricted-imports': [
          'error',
          { patterns: [{ group, message: 'Arrows of the core point one way: see docs/architecture.md.' }] },
        ],
      },
    },
  ]
})

export default ts.config(
  { ignores: ['**/node_modules/**', '.nuxt/**', '.output/**', 'public/**', 'test-results/**', 'bench/results/**'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.ts', '**/*.vue', '**/*.mjs'],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      'vue/multi-word-component-names': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      'no-console': ['error', { allow: ['error', 'log'] }],
      eqeqeq: 'error',
    },
  },
  {
    files: [
      'core/src/**/*.ts',
      'app/**/*.ts',
      'app/**/*.vue',
      'cli/src/**/*.ts',
      'server/**/*.ts',
      'pool/**/*.ts',
      'loaders/src/**/*.ts',
    ],
    rules: {
      // a long list spread into arguments overflows the stack
      'no-restricted-syntax': [
        'error',
        {
          selector:
            "CallExpression[callee.object.name='Math'][callee.property.name=/^(max|min)$/] > SpreadElement > *:not([type='ArrayExpression'])",
          message: 'Use maxOf or minOf: a spread list overflows the stack.',
        },
      ],
    },
  },
  ...oneWay,
  {
    // the stage draws and reports; it knows no stores and no reactivity
    files: ['app/stage/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['vue', 'pinia', '~/components/**', '~/composables/**'],
              message: 'The stage is plain TypeScript.',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['app/**/*', 'server/**/*'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['@chiraxis/cli', '@chiraxis/demo', '@chiraxis/demo/**'],
              message: 'The application does not know the command line or the demo.',
            },
          ],
        },
      ],
    },
  },
)
