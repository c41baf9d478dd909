/** Focus never falls to nowhere: when what had it is taken away, it goes to what follows there. */

const FOCUSABLE =
  'a[href], button:not([disabled]), input:not([disabled]), select, textarea, summary, [tabindex="0"]'

interface Place {
  element: Element
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
  return { element, parents }
}

const seen = (element: Element) => (element as HTMLElement).offsetParent !== null

/** What stands where something stood, or after it, else before it, as near as there is one. */
export function follower(place: Place, shown: (e: Element) => boolean = seen): HTMLElement | null {
  for (const { parent, at } of place.parents) {
    if (!parent.isConnected) continue
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

/** Watch the page; what is returned stops it. */
export function keepFocus(): () => void {
  let last: Place | null = null
  const moved = (event: FocusEvent) => {
    if (event.target instanceof Element) last = placeOf(event.target)
  }
  const watch = new MutationObserver(() => {
    if (!last || last.element.isConnected || document.activeElement !== document.body) return
    // Where fingers type, a field in focus brings up the pad unasked.
    if (matchMedia('(pointer: coarse)').matches) return
    const next = follower(last)
    last = null
    next?.focus()
  })
  document.addEventListener('focusin', moved)
  watch.observe(document.body, { childList: true, subtree: true })
  return () => {
    document.removeEventListener('focusin', moved)
    watch.disconnect()
  }
}
