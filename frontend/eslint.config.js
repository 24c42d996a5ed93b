import js from '@eslint/js'
import a11y from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

/** Sizes of text have names in `index.css`; what is typed into looks the same everywhere. */
const PLURALS =
  'documents|files|people|sheets|marks|lines|sets|replies|members|companies|folders|days|places|pages'
const COUNTS = [
  `JSXText[value=/^\\s*(${PLURALS})\\b/]`,
  `TemplateElement[value.raw=/^ (${PLURALS})\\b/]`,
].map((selector) => ({
  selector,
  message: 'One is not many: say it by counted() of domain/counted.',
}))
const LOOKS = [
  {
    selector: ':matches(Literal[value=/text-\\[[0-9]/], TemplateElement[value.raw=/text-\\[[0-9]/])',
    message: 'Sizes of text have names: see @theme in index.css.',
  },
  {
    selector: 'JSXOpeningElement[name.name=/^(select|textarea)$/]',
    message: 'Use Choice, BareChoice or Lines of ui/Input.',
  },
  {
    selector:
      'JSXOpeningElement[name.name="input"]:not(:has(JSXAttribute[name.name="type"][value.value=/^(checkbox|radio|file|range)$/]))',
    message: 'Use Input or CellInput of ui/Input.',
  },
  {
    selector: 'IfStatement[test.type="MemberExpression"][test.property.name="error"]',
    message: 'A fetch that failed does not take the page away: use isLost of api/fetched.',
  },
]

/** An answer that comes late does not close or leave what was opened meanwhile. */
const LEADS = '/^(on(Close|Done|Made|Sent|Saved|Shut)|navigate)$/'
const SUCCESS = 'CallExpression[callee.name="useMutation"] Property[key.name="onSuccess"]'
const LATE = [
  `${SUCCESS} > Identifier[name=${LEADS}]`,
  `${SUCCESS} > ArrowFunctionExpression > CallExpression[callee.name=${LEADS}]`,
  `${SUCCESS} ExpressionStatement > CallExpression[callee.name=${LEADS}]`,
  `${SUCCESS} :matches(AwaitExpression, UnaryExpression, ReturnStatement, ConditionalExpression, LogicalExpression) > CallExpression[callee.name=${LEADS}]`,
].map((selector) => ({
  selector,
  message: 'What an answer closes or leads to goes through useHere: one may have gone on meanwhile.',
}))

export default tseslint.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.gen.ts', '*.cjs', '*.js'] },
  js.configs.recommended,
  ...tseslint.configs.recommendedTypeChecked,
  a11y.flatConfigs.recommended,
  hooks.configs.flat['recommended-latest'],
  {
    languageOptions: { parserOptions: { project: './tsconfig.json' } },
    settings: {
      'jsx-a11y': {
        components: {
          Input: 'input',
          Choice: 'select',
          BareChoice: 'select',
          CellInput: 'input',
          Lines: 'textarea',
        },
      },
    },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
      complexity: ['error', 10],
      'max-lines-per-function': ['error', { max: 60, skipBlankLines: true, skipComments: true }],
      'max-lines': ['error', 400],
    },
  },
  {
    // A describe holds its cases.
    files: ['**/*.test.ts', '**/*.test.tsx'],
    rules: { 'max-lines-per-function': 'off' },
  },
  {
    files: ['src/features/**/*.tsx'],
    ignores: ['**/*.test.tsx'],
    rules: { 'no-restricted-syntax': ['error', ...LOOKS, ...COUNTS, ...LATE] },
  },
  {
    files: ['src/ui/**/*.ts', 'src/ui/**/*.tsx', 'src/features/**/*.ts'],
    rules: { 'no-restricted-syntax': ['error', ...LATE] },
  },
)
