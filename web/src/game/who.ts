// The name that whoever sits here goes by, for others who look at the same game.
const KEY = 'golddice.who'

export const whoAmI = () => localStorage.getItem(KEY) ?? ''

export function nameMyself(name: string): void {
  localStorage.setItem(KEY, name.trim().slice(0, 60))
}
