interface Open {
  id: string
  is_open: boolean
}

/** What is sent of the items, and the verdict that follows: the gravest of them, or the one given where there are none. */
export function answered(
  items: readonly Open[],
  order: readonly string[],
  overall: string,
  given: Readonly<Record<string, string>>,
): { verdict: string; items: Record<string, string> } {
  const open = items.filter((each) => each.is_open)
  const of = Object.fromEntries(open.map((each) => [each.id, given[each.id] ?? overall]))
  const said = Object.values(of)
  if (!said.length) return { verdict: overall, items: {} }
  if (said.some((each) => !each)) return { verdict: '', items: of }
  const gravest = said.reduce((worst, each) => (order.indexOf(each) > order.indexOf(worst) ? each : worst))
  return { verdict: gravest, items: of }
}
