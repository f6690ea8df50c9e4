import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

const message = 'What people read stands in the catalogue: src/texts/en, by key.';
const SHOWN =
  '/^(label|aria-label|title|placeholder|helperText|save|empty|none|word|said|note|hint|what|question|action)$/';
/** Texts that people read, written into the code. What only programmers read, as in thrown errors, may be. */
const TEXTS = [
  'JSXText[value=/[A-Za-z]{2}/]:not([value=/^\\s*CSV\\s*$/])',
  `JSXAttribute[name.name=${SHOWN}] > Literal[value=/[A-Za-z]{2}/]`,
  `JSXAttribute[name.name=${SHOWN}] TemplateElement[value.raw=/[A-Za-z]{2}/]`,
  'Property[key.name=/^(label|title|note|hint)$/] > Literal[value=/[A-Za-z]{3}/]',
  ':not(NewExpression) > Literal[value=/^[A-Z][a-z]+ [a-z]/]',
  ':not(NewExpression) > TemplateLiteral > TemplateElement[value.raw=/[a-z]{2} [a-z]{2}/]:not([value.raw=/px |ms /])',
].map((selector) => ({ selector, message }));

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
        ...TEXTS,
        "CallExpression[callee.name='fetch']",
        {
          selector: "Property[key.name='fontSize'] > Literal",
          message: "Sizes of text are the theme's: a Typography variant, or typography in sx.",
        },
      ],
    },
  },
  { files: ['src/{domain,platform,entities}/**'], rules: { 'no-restricted-syntax': ['error', ...TEXTS] } },
  { files: ['src/**/*.test.*', 'src/**/testing/**'], rules: { 'no-restricted-syntax': 'off' } },
  // The theme says what the sizes are.
  { files: ['src/ui/theme.ts'], rules: { 'no-restricted-syntax': 'off' } },
  // The factories of TanStack Query have types that only inference can write.
  { files: ['src/entities/**/*.ts'], rules: { '@typescript-eslint/explicit-module-boundary-types': 'off' } },
  { files: ['src/**/*.test.*'], rules: { 'max-lines-per-function': 'off' } },
);
