import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts', 'src/auto-imports.d.ts', 'src/components.d.ts'] },
  ...tseslint.configs.strict,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
  { rules: { 'vue/require-default-prop': 'off', 'no-undef': 'off' } },
  prettier,
)
