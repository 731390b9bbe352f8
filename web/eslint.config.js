import jsxA11y from 'eslint-plugin-jsx-a11y'
import reactHooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

// Which rooms a room may use: `features` what lies below them and none another, `entities` no feature, `shared` neither.
const mayNotUse = (files, rooms, message) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: [{ regex: rooms, message }] }] },
})

export default tseslint.config(
  { ignores: ['src/api/*.gen.ts'] },
  ...tseslint.configs.strict,
  { files: ['src/**/*.{ts,tsx}'], plugins: { 'react-hooks': reactHooks }, rules: reactHooks.configs.recommended.rules },
  {
    files: ['src/**/*.tsx'],
    ...jsxA11y.flatConfigs.recommended,
    rules: {
      ...jsxA11y.flatConfigs.recommended.rules,
      // What opens takes the focus; a list that scrolls must be reached by the keys.
      'jsx-a11y/no-autofocus': ['error', { ignoreNonDOM: true }],
      'jsx-a11y/no-noninteractive-tabindex': ['error', { tags: [], roles: ['region'] }],
      'jsx-a11y/label-has-associated-control': ['error', { controlComponents: ['Select', 'Input.TextArea'] }],
    },
  },
  mayNotUse(['src/features/**'], '^\\.\\./(?!\\.\\./)', 'A feature uses no other feature: what both need is an entity.'),
  mayNotUse(['src/entities/**'], '^(\\.\\./)+features/', 'An entity uses no feature.'),
  mayNotUse(['src/shared/**', 'src/api/**', 'src/offline/**'], '^(\\.\\./)+(features|entities)/', 'What is shared uses neither features nor entities.'),
)
