import '@fontsource-variable/literata'
import '@fontsource-variable/source-sans-3'
import 'ant-design-vue/dist/reset.css'
import { message } from 'ant-design-vue'
import { createApp } from 'vue'
import '../shared/tokens.css'
import './staff.css'
import App from './App.vue'
import { router } from './router'

message.config({ getContainer: () => document.querySelector<HTMLElement>('#messages') ?? document.body })
createApp(App).use(router).mount('#staff')
