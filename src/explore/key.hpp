// Keys: positions as numbers of one word or a few, plain or *mixed*.
//
// A mixed key has its first word spread evenly, so that sharing keys out and looking them up takes
// bits of it and no hashing; mixing can be undone. The highest bit of a plain key is never set.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

namespace orchard::explore {

template <std::size_t words>
using Key = std::array<std::uint64_t, words>;

// Word by word: the comparison of the library is a call, and half of the time of a census.
template <std::size_t words>
constexpr bool same_key(const Key<words>& a, const Key<words>& b) {
  std::uint64_t differs = 0;
  for (std::size_t w = 0; w < words; ++w) differs |= a[w] ^ b[w];
  return differs == 0;
}

// Source: the finalizer of MurmurHash3 (Appleby 2011), each step of which can be undone.
constexpr std::uint64_t mixed_word(std::uint64_t word) {
  word ^= word >> 33;
  word *= 0xFF51AFD7ED558CCD;
  word ^= word >> 33;
  word *= 0xC4CEB9FE1A85EC53;
  return word ^ word >> 33;
}
constexpr std::uint64_t unmixed_word(std::uint64_t mixed) {
  mixed ^= mixed >> 33;
  mixed *= 0x9CB4B2F8129337DB;
  mixed ^= mixed >> 33;
  mixed *= 0x4F74430C22A54005;
  return mixed ^ mixed >> 33;
}
static_assert(unmixed_word(mixed_word(0x0123456789ABCDEF)) == 0x0123456789ABCDEF);

// The other words are taken into the first one, and stay.
template <std::size_t words>
constexpr Key<words> mixed_key(Key<words> key) {
  for (std::size_t w = 1; w < words; ++w) key[0] ^= mixed_word(key[w] + w);
  key[0] = mixed_word(key[0]);
  return key;
}
template <std::size_t words>
constexpr Key<words> unmixed_key(Key<words> mixed) {
  mixed[0] = unmixed_word(mixed[0]);
  for (std::size_t w = 1; w < words; ++w) mixed[0] ^= mixed_word(mixed[w] + w);
  return mixed;
}

// A mixed key that no position has.
template <std::size_t words>
constexpr Key<words> no_key() {
  Key<words> key{};
  key[words - 1] = ~std::uint64_t{0};
  return mixed_key(key);
}

}  // namespace orchard::explore
