import '@fontsource-variable/literata'
import '@fontsource-variable/source-sans-3'
import 'ant-design-vue/dist/reset.css'
import { createApp } from 'vue'
import '../shared/tokens.css'
import './staff.css'
import App from './App.vue'
import { router } from './router'

createApp(App).use(router).mount('#staff')
