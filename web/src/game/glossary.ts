// Words of the trade that screens use, each in a sentence or two.
export const GLOSSARY = {
  abundance:
    'How often an item comes up inside a pool beside the others there: 2 is twice as often as 1.',
  'blank weight': 'The weight of nothing: it competes with the lines, so a roll can come up empty.',
  cells: 'The room that an item takes in a bag or container, as columns times rows.',
  copies:
    'How many cards of this line a full deck holds. A drawn card is gone until the deck is full again.',
  cv: 'Standard deviation over mean: 0.5 is calm, above 2 a gamble. It compares things of different worth.',
  drought: 'The longest run of events in a row in which a player received none of it.',
  'fresh player': 'One who has done nothing yet: no misses, no hits, every deck full.',
  guard:
    'Protection against a long wait: after so many misses in a row the chance rises, until it is sure.',
  'lines may repeat':
    'Whether one execution can give the same line twice, or each line at most once.',
  'long run':
    'The average over very many events of one player, where misses, limits and decks have their effect.',
  money: 'An item that prices are paid in.',
  pips: 'The dots of a tier, as on a die: its rank, 1 lowest. They stand beside its colour everywhere.',
  sd: 'Standard deviation of the worth of one event: how far a typical one lies from the mean.',
  swing:
    'How much of the variance of worth comes by way of a line or drop. All of a source make 100 %; below 0 is a line that calms what others stir, since it takes their place, and then others can be above 100 %.',
  'stats ×': 'A factor on the rolled stats of every item of the tier.',
  stack: 'How many of the item lie in one place of a bag.',
  z: 'How many standard errors lie between what was observed and what was expected: up to 2 or 3 is chance.',
} as const

/** The section of the guide that says more of a word, by its heading. */
export const SECTION_OF: Record<Term, string> = {
  abundance: 'Words',
  'blank weight': 'How a table is rolled',
  cells: 'Words',
  copies: 'How a table is rolled',
  cv: 'Share of the swing',
  drought: 'Trials',
  'fresh player': 'What players carry',
  guard: 'What players carry',
  'lines may repeat': 'How a table is rolled',
  'long run': 'What players carry',
  money: 'Words',
  pips: 'Words',
  sd: 'Share of the swing',
  swing: 'Share of the swing',
  'stats ×': 'Depth',
  stack: 'Words',
  z: 'Trials',
}

/** A heading as it stands in an address. */
export function sectionId(heading: string): string {
  return heading
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
}

export type Term = keyof typeof GLOSSARY
