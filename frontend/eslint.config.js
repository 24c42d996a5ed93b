import js from '@eslint/js'
import a11y from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.gen.ts', '*.cjs', '*.js'] },
  js.configs.recommended,
  ...tseslint.configs.recommendedTypeChecked,
  a11y.flatConfigs.recommended,
  hooks.configs.flat['recommended-latest'],
  {
    languageOptions: { parserOptions: { project: './tsconfig.json' } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
      complexity: ['error', 20],
      'max-lines': ['error', 400],
    },
  },
)
