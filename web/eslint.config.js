import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['dist', 'src/platform/schema.d.ts', '*.config.*', '.dependency-cruiser.cjs'] },
  ...tseslint.configs.strictTypeChecked,
  {
    languageOptions: { parserOptions: { project: './tsconfig.json', tsconfigRootDir: import.meta.dirname } },
  },
  hooks.configs.flat['recommended-latest'],
  {
    rules: {
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
      '@typescript-eslint/explicit-module-boundary-types': 'error',
      // Of the browser's window: a name that is forgotten to be passed in would act on that, and type checks.
      'no-restricted-globals': [
        'error',
        ...['close', 'open', 'stop', 'print', 'find', 'focus', 'blur', 'scroll', 'name', 'status', 'event'],
        ...['length', 'origin', 'parent', 'self', 'top'],
      ],
      'max-lines': ['error', 400],
      'max-lines-per-function': ['error', { max: 120, skipBlankLines: true, skipComments: true }],
    },
  },
  // Components ask the entities, which are the only callers of the client.
  {
    files: ['src/{app,features,ui,chart}/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/platform/client', '**/platform/stream'], allowTypeImports: true }] },
      ],
      'no-restricted-properties': ['error', { object: 'window', property: 'fetch' }],
      'no-restricted-syntax': [
        'error',
        "CallExpression[callee.name='fetch']",
        {
          selector: "Property[key.name='fontSize'] > Literal",
          message: "Sizes of text are the theme's: a Typography variant, or typography in sx.",
        },
      ],
    },
  },
  // The theme says what the sizes are.
  { files: ['src/ui/theme.ts'], rules: { 'no-restricted-syntax': 'off' } },
  // The factories of TanStack Query have types that only inference can write.
  { files: ['src/entities/**/*.ts'], rules: { '@typescript-eslint/explicit-module-boundary-types': 'off' } },
  { files: ['src/**/*.test.*'], rules: { 'max-lines-per-function': 'off' } },
);
