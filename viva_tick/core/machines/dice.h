#if AT_TYPES
// Chance: a 32-bit xorshift. Without a hand's timing mixed in, the row is the same after each power-on.
const uint32_t DICE_SEED = 1UL;
const bool DICE_MIXES = true;
#endif
#if AT_VALUES
uint32_t dice = 2463534242UL ^ DICE_SEED;
#endif
#if AT_FUNCTIONS
void mix_dice() {
  if (DICE_MIXES) dice ^= micros() | 1UL;
}

uint32_t roll(uint32_t span) {
  if (!dice) dice = 2463534242UL;  // it would stay there
  dice ^= dice << 13;
  dice ^= dice >> 17;
  dice ^= dice << 5;
  return dice % span;
}
#endif
