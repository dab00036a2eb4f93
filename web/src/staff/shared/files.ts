import { api, call, type Schemas } from '../../shared/api/client'

const raw = (file: Blob) => ({
  body: '' as const,
  bodySerializer: () => file,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** Sends a picture or a film to the server, which keeps it and says where it is. */
export const keepMedia = (file: File): Promise<Schemas['Kept']> =>
  call(api.POST('/api/staff/media', raw(file)))

/** Sends any file, to be fetched by readers. */
export const keepAttachment = (file: File): Promise<Schemas['Kept']> =>
  call(api.POST('/api/staff/attachments', raw(file)))
