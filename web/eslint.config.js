import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

// From the top down: a folder knows those below it, and none above.
const FLOORS = [
  ['app'],
  ['sheets'],
  ['tray', 'tuning'],
  ['plots'],
  ['ui'],
  ['game'],
  ['api'],
  ['text'],
]
const COMMIT = {
  name: '@/game/sync',
  importNames: ['commit'],
  message: 'An edit is a function of the game: use `edit`, `change` or `take` of game/edit.',
}

/** What a floor may not know: the floors above it, and those beside it. */
const floors = FLOORS.map((folders, at) => ({
  files: folders.map((folder) => `src/${folder}/**/*.{ts,tsx}`),
  rules: {
    'no-restricted-imports': [
      'error',
      {
        paths: [COMMIT],
        patterns: [
          {
            group: FLOORS.slice(0, at)
              .flat()
              .map((folder) => `@/${folder}/**`),
            message: 'It stands on a floor above this folder; see CONTRIBUTING.md.',
          },
          {
            group: FLOORS.flat().map((folder) => `**/../${folder}/**`),
            message: 'Another folder is named by @/, so that its floor can be seen.',
          },
        ].filter(({ group }) => group.length),
      },
    ],
  },
}))

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    files: ['src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  ...floors,
)
