/** How a person or the company may want times of day shown. */
export const clockOptions = [
  { value: 'twenty_four_hour', label: '24-hour, 14:30' },
  { value: 'twelve_hour', label: '12-hour, 2:30 PM' },
];

/** How a person or the company may want dates shown. */
export const dateOrderOptions = [
  { value: 'month_first', label: 'Month first, Nov 24' },
  { value: 'day_first', label: 'Day first, 24 Nov' },
];

/** What a person who leaves it to the company chooses. */
export const companyDefault = { value: '', label: 'Company default' };
