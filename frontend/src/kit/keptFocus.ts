/** Focus never falls to nowhere: when what had it is taken away, it goes to what follows there. */

const FOCUSABLE =
  'a[href], button:not([disabled]), input:not([disabled]), select, textarea, summary, [tabindex="0"]'

interface Place {
  element: Element
  address: string
  /** Its parents from the nearest on, each with the place of the child that led there. */
  parents: { parent: Element; at: number }[]
}

export function placeOf(element: Element): Place {
  const parents: Place['parents'] = []
  for (let child = element; child.parentElement; child = child.parentElement)
    parents.push({
      parent: child.parentElement,
      at: Array.prototype.indexOf.call(child.parentElement.children, child),
    })
  return { element, parents, address: location.pathname }
}

const seen = (element: Element) => (element as HTMLElement).offsetParent !== null

/**
 * What stands where something stood, or after it, else before it, as near as there is one.
 * Nothing where the whole station went: on the next one, keys are the station's.
 */
export function follower(place: Place, shown: (e: Element) => boolean = seen): HTMLElement | null {
  for (const { parent, at } of place.parents) {
    if (!parent.isConnected) continue
    if (parent.matches('main, body')) return null
    const later = [...parent.children].slice(at)
    const earlier = [...parent.children].slice(0, at).reverse()
    for (const child of [...later, ...earlier]) {
      const inside = [child, ...child.querySelectorAll(FOCUSABLE)]
      const found = inside.find((e) => e.matches(FOCUSABLE) && shown(e))
      if (found) return found as HTMLElement
    }
  }
  return null
}

/** Watch the page; what is returned stops it. A dialog gives its focus back to the station. */
export function keepFocus(): () => void {
  let last: Place | null = null
  const moved = (event: FocusEvent) => {
    const to = event.target
    if (to instanceof Element && to.closest('main') && !to.closest('[role=dialog]'))
      last = placeOf(to)
  }
  /** What is hidden keeps its focus until the next frame is drawn, however late that is. */
  const nowhere = () => {
    const at = document.activeElement
    return at === null || at === document.body || at.getClientRects().length === 0
  }
  const look = () => {
    if (!last || last.element.isConnected || !nowhere()) return
    if (last.address !== location.pathname) return
    // Where fingers type, a field in focus brings up the pad unasked.
    if (matchMedia('(pointer: coarse)').matches) return
    const next = follower(last)
    last = null
    next?.focus()
  }
  let soon: ReturnType<typeof setTimeout> | undefined
  const watch = new MutationObserver(() => {
    clearTimeout(soon)
    soon = setTimeout(look, 50)
  })
  document.addEventListener('focusin', moved)
  // A dialog that closes is hidden, not taken away.
  watch.observe(document.body, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ['style'],
  })
  return () => {
    document.removeEventListener('focusin', moved)
    watch.disconnect()
    clearTimeout(soon)
  }
}
