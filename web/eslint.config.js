import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/shared/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    rules: {
      'no-undef': 'off', // the type checker knows better
      'vue/multi-word-component-names': 'off',
      'vue/no-v-html': 'off', // article text, sanitised by the server
    },
  },
  prettier,
)
