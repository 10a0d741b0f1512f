import { STATUS_CODES } from 'node:http'
import type { Duplex } from 'node:stream'
import type { Problem } from '@canter/core/trial'

/** Answers bytes that are no HTTP request as everything else is answered, and ends the connection. */
export function refuseUnreadable(error: NodeJS.ErrnoException, socket: Duplex): void {
  if (!socket.writable || error.code === 'ECONNRESET') {
    socket.destroy()
    return
  }
  const status = error.code === 'HPE_HEADER_OVERFLOW' ? 431 : error.code === 'ERR_HTTP_REQUEST_TIMEOUT' ? 408 : 400
  const detail =
    status === 431
      ? 'The address or the headers are longer than is taken here.'
      : status === 408
        ? 'The request did not come in time. Send it again.'
        : 'This is no HTTP request that can be read.'
  const body = JSON.stringify({ type: 'about:blank', title: 'Not understood', status, detail } satisfies Problem)
  socket.end(
    [
      `HTTP/1.1 ${status} ${STATUS_CODES[status] ?? ''}`,
      'Content-Type: application/problem+json',
      "Content-Security-Policy: default-src 'none'",
      'X-Content-Type-Options: nosniff',
      `Content-Length: ${Buffer.byteLength(body)}`,
      'Connection: close',
      '',
      body,
    ].join('\r\n'),
  )
}
