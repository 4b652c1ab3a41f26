/** A deleted shoot can be brought back for so long. */
export const KEPT_DAYS = 14;
