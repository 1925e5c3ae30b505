// The least and the most of many: `Math.max(...values)` fails where there are more than a call can take.
export function leastOf(values: Iterable<number>, most = Infinity): number {
  let least = most
  for (const value of values) if (value < least) least = value
  return least
}

export function mostOf(values: Iterable<number>, least = -Infinity): number {
  let most = least
  for (const value of values) if (value > most) most = value
  return most
}
