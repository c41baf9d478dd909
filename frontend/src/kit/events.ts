/**
 * One event stream for a whole browser: a tab in sight holds it and tells the others.
 *
 * A browser allows few connections to one server; a stream a tab would use them up. The stream is
 * closed when the tab that holds it is hidden, and the next tab in sight takes it over. `lost` is
 * called when it breaks, `found` when it is there again: what came in between is not known.
 */
const AGAIN_MS = 3_000

export function sharedEvents(
  url: string,
  take: (data: string) => void,
  lost: () => void,
  found: () => void = () => undefined,
) {
  const channel = new BroadcastChannel(`vivid-arm ${url}`)
  channel.onmessage = (event: MessageEvent<string | null>) =>
    event.data === null ? lost() : take(event.data)

  let broken = false
  function open(closed: () => void): EventSource {
    const source = new EventSource(url)
    source.onopen = () => {
      if (broken) found()
      broken = false
    }
    source.onmessage = (event: MessageEvent<string>) => {
      channel.postMessage(event.data)
      take(event.data)
    }
    source.onerror = () => {
      broken = true
      channel.postMessage(null)
      lost()
      // Where nobody was signed in, the browser does not try again by itself.
      if (source.readyState === EventSource.CLOSED) closed()
    }
    return source
  }

  let leave: () => void = () => undefined
  function stand() {
    leave()
    if (document.hidden) return
    const asking = new AbortController()
    let source: EventSource | null = null
    let again = 0
    const start = () => {
      source = open(() => (again = window.setTimeout(start, AGAIN_MS)))
    }
    let done: () => void = () => undefined
    const hold = () =>
      new Promise<void>((release) => {
        done = release
        start()
      })
    if (navigator.locks)
      navigator.locks
        .request(`vivid-arm ${url}`, { signal: asking.signal }, hold)
        .catch(() => undefined)
    else void hold()
    leave = () => {
      asking.abort()
      clearTimeout(again)
      source?.close()
      done()
    }
  }
  document.addEventListener('visibilitychange', stand)
  stand()
  return () => {
    document.removeEventListener('visibilitychange', stand)
    leave()
    channel.close()
  }
}
