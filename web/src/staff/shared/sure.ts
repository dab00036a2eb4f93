import { Modal } from 'ant-design-vue'
import { cover } from './keys'

/** Asks before something that cannot simply be taken back. */
export function sure(title: string, content: string, okText: string, work: () => unknown) {
  const uncover = cover()
  Modal.confirm({ title, content, okText, onOk: work, afterClose: uncover })
}
