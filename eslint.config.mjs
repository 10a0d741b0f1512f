import reactHooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['**/dist/**', '**/.build/**', '**/node_modules/**', '.cache/**', 'data/**', 'core/fixtures/**'] },
  ...tseslint.configs.recommendedTypeChecked.map((each) => ({ ...each, files: ['**/*.ts', '**/*.tsx'] })),
  {
    files: ['**/*.ts', '**/*.tsx'],
    languageOptions: {
      parserOptions: {
        projectService: { allowDefaultProject: ['vitest.config.ts', 'web/vite.config.ts'] },
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
      'no-console': 'off',
    },
  },
  {
    files: ['web/src/**/*.ts', 'web/src/**/*.tsx'],
    plugins: { 'react-hooks': reactHooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  {
    // Computation knows no clock, chance or machine: they are arguments.
    files: ['core/src/**/*.ts'],
    rules: {
      'no-restricted-globals': ['error', 'Date', 'performance', 'crypto', 'process', 'window', 'document', 'fetch', 'console'],
      'no-restricted-properties': ['error', { object: 'Math', property: 'random' }],
    },
  },
)
