#if AT_TYPES
// Chance: a 32-bit xorshift. Without a hand's timing mixed in, the row is the same after each power-on.
#ifndef DICE_SEED
#define DICE_SEED 1UL
#define MIX_DICE() (dice ^= micros() | 1UL)
#else
#define MIX_DICE() (void)0
#endif
#endif
#if AT_VALUES
uint32_t dice = (2463534242UL ^ DICE_SEED) ? (2463534242UL ^ DICE_SEED) : 2463534242UL;
#endif
#if AT_FUNCTIONS
uint32_t roll(uint32_t span) {
  dice ^= dice << 13;
  dice ^= dice >> 17;
  dice ^= dice << 5;
  return dice % span;
}
#endif
