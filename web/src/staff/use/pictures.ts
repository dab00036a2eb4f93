import { api, call, type Schemas } from '../../shared/api/client'

/** Sends a picture to the server, which keeps it and says where it is. */
export function keepPicture(file: File): Promise<Schemas['Picture']> {
  return call(
    api.POST('/api/staff/pictures', {
      body: '',
      bodySerializer: () => file,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  )
}
