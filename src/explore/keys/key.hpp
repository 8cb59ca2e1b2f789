// Keys: positions as numbers of one word or a few, plain or *mixed*.
//
// A mixed key has its first word spread evenly, so that sharing keys out and looking them up takes
// bits of it and no hashing; mixing can be undone. The highest bit of a plain key is never set, so
// that no mixed key has a last word of ones.
#pragma once

#include <algorithm>
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

// Their order, for the same reason.
template <std::size_t words>
constexpr bool key_before(const Key<words>& a, const Key<words>& b) {
  for (std::size_t w = 0; w + 1 < words; ++w) {
    if (a[w] != b[w]) return a[w] < b[w];
  }
  return a[words - 1] < b[words - 1];
}

// Mixes the bits of a word below a number of them, and can be undone.
// Source: as the finalizer of MurmurHash3 (Appleby 2011), whose steps can each be undone.
class WordMixer {
 public:
  explicit constexpr WordMixer(std::uint32_t bits)
      : mask_(~std::uint64_t{0} >> (64 - bits)), half_((bits + 1) / 2) {}
  constexpr std::uint64_t mix(std::uint64_t word) const {
    word ^= word >> half_;
    word = word * 0xFF51AFD7ED558CCD & mask_;
    word ^= word >> half_;
    word = word * 0xC4CEB9FE1A85EC53 & mask_;
    return word ^ word >> half_;
  }
  constexpr std::uint64_t unmix(std::uint64_t mixed) const {
    mixed ^= mixed >> half_;
    mixed = mixed * 0x9CB4B2F8129337DB & mask_;
    mixed ^= mixed >> half_;
    mixed = mixed * 0x4F74430C22A54005 & mask_;
    return mixed ^ mixed >> half_;
  }

 private:
  std::uint64_t mask_;
  std::uint32_t half_;
};
static_assert(WordMixer(64).unmix(WordMixer(64).mix(0x0123456789ABCDEF)) == 0x0123456789ABCDEF);
static_assert(WordMixer(37).unmix(WordMixer(37).mix(0x1234567890)) == 0x1234567890);

// Keys of so many bits, plain and mixed. The first word of a mixed key begins with its highest bit
// however few the bits are, the others are taken into it and stay: keys in order are spread evenly.
template <std::size_t words>
class KeyMixer {
 public:
  explicit constexpr KeyMixer(std::uint32_t bits)
      : first_(words > 1 ? 64 : std::max(bits, std::uint32_t{1})),
        free_bits_(words > 1 ? 0 : 64 - std::max(bits, std::uint32_t{1})) {}

  constexpr Key<words> mix(Key<words> key) const {
    for (std::size_t w = 1; w < words; ++w) key[0] ^= rest_.mix(key[w] + w);
    key[0] = first_.mix(key[0]) << free_bits_;
    return key;
  }
  constexpr Key<words> unmix(Key<words> mixed) const {
    mixed[0] = first_.unmix(mixed[0] >> free_bits_);
    for (std::size_t w = 1; w < words; ++w) mixed[0] ^= rest_.mix(mixed[w] + w);
    return mixed;
  }
  // Of the first word of a mixed key, the lowest, which are zero.
  constexpr std::uint32_t free_bits() const { return free_bits_; }

 private:
  WordMixer first_;
  WordMixer rest_{64};
  std::uint32_t free_bits_;
};

}  // namespace orchard::explore
