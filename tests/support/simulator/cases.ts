import type { SimulatedCase } from './building';
import { COMMON_CASES } from './common-cases';
import { HARD_CASES } from './hard-cases';
import { RECORDED_CASES } from './recorded-cases';
import { ROOM_CASES } from './room-cases';

export const CASES: readonly SimulatedCase[] = [...COMMON_CASES, ...HARD_CASES, ...RECORDED_CASES, ...ROOM_CASES];
