/** Clock styles. */
export const clockOptions = [
  { value: 'twenty_four_hour', label: '24-hour, 14:30' },
  { value: 'twelve_hour', label: '12-hour, 2:30 PM' },
];

/** Date orders. */
export const dateOrderOptions = [
  { value: 'month_first', label: 'Month first, Nov 24' },
  { value: 'day_first', label: 'Day first, 24 Nov' },
];

/** The option of following the company's default. */
export const companyDefault = { value: '', label: 'Company default' };
