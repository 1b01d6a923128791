/** How a driver works for us. */
export const workerLabels: Record<string, string> = {
  employee: 'Employee',
  contractor: 'Contractor',
  owner_operator: 'Owner-operator',
};
