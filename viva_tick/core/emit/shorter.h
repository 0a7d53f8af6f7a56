// The shorter of two times that are left; one that is over leaves none.
uint32_t shorter(uint32_t left, uint32_t passed, uint32_t span) {
  const uint32_t rest = passed < span ? span - passed : 0;
  return rest < left ? rest : left;
}
