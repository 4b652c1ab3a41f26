/** Height of a person's lane. */
export const PERSON_LANE_PIXELS = 14;
