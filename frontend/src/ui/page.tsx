import { useCallback, useEffect, useState, type ComponentType, type ReactNode } from 'react'

import { brokenLine, Refused } from '../api/problems'
import { ErrorNote, Loading } from './Notes'

const RELOADED = 'nod.reloaded'

/** There is a newer Nod on the server, whose pages have other names; loaded anew once, and what is typed is kept. */
async function loadAnew(): Promise<boolean> {
  const there = await fetch('/healthz').catch(() => null)
  if (!there?.ok || sessionStorage.getItem(RELOADED) === location.href) return false
  sessionStorage.setItem(RELOADED, location.href)
  location.reload()
  return true
}

/** A page that is fetched when it is first gone to. While it cannot be, it says so, and Nod stays where it is. */
export function page<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  let found: ComponentType | null = null
  const fetchIt = async () => {
    found = (await load())[name]
  }

  function Page(): ReactNode {
    const [error, setError] = useState<unknown>(null)
    const [, setThere] = useState(false)
    const start = useCallback(() => {
      setError(null)
      fetchIt().then(
        () => setThere(true),
        async () => (await loadAnew()) || setError(new Refused(brokenLine())),
      )
    }, [])
    useEffect(() => {
      if (!found) start()
    }, [start])
    const Found = found
    if (Found) return <Found />
    return error ? <ErrorNote error={error} again={start} /> : <Loading what="this page" />
  }
  Page.preload = () => fetchIt().catch(() => undefined)
  return Page
}
