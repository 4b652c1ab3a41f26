/** The six stages of the work, in their order, as they stand in addresses. */
export const STAGES = ['gather', 'line-up', 'prove', 'master', 'call', 'hand-off'] as const;
export type Stage = (typeof STAGES)[number];
