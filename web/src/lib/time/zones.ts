/** Time zones of the United States and Canada, by their tz database names, from west to east. */
export const zones = [
  ['Pacific/Honolulu', 'Hawaii'],
  ['America/Anchorage', 'Alaska'],
  ['America/Los_Angeles', 'Pacific: Los Angeles, Seattle'],
  ['America/Vancouver', 'Pacific: Vancouver'],
  ['America/Phoenix', 'Mountain without daylight time: Phoenix'],
  ['America/Denver', 'Mountain: Denver, Missoula'],
  ['America/Boise', 'Mountain: Boise'],
  ['America/Edmonton', 'Mountain: Calgary, Edmonton'],
  ['America/Regina', 'Central without daylight time: Regina'],
  ['America/Chicago', 'Central: Chicago, Dallas, Omaha'],
  ['America/Winnipeg', 'Central: Winnipeg'],
  ['America/New_York', 'Eastern: New York, Atlanta'],
  ['America/Detroit', 'Eastern: Detroit'],
  ['America/Indiana/Indianapolis', 'Eastern: Indianapolis'],
  ['America/Toronto', 'Eastern: Toronto, Montreal'],
  ['America/Halifax', 'Atlantic: Halifax'],
  ['America/St_Johns', 'Newfoundland: St. John’s'],
].map(([value, label]) => ({ value, label }));

/** This machine's zone, if it is one of ours. */
export function ownZone(): string {
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return zones.some((z) => z.value === own) ? own : 'America/Chicago';
}
