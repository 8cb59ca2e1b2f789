// Runs: mixed keys in order, each coded as what it lies beyond the one before.
//
// Evenly spread keys of b bits take about b - log2(keys) + 1.5 bits each: the difference of first
// words as a Rice code (Golomb 1966, Rice 1979), the bits of the other words as they are. Every
// 256 keys their place is noted, so that a reader passes over what is not asked for.
#pragma once

#include <bit>
#include <cstddef>
#include <cstring>
#include <vector>

#include "explore/keys/key.hpp"
#include "explore/stores/run_shelf.hpp"

namespace orchard::explore {

// How many bits of a mixed key are coded: the same for all runs of a census.
template <std::size_t words>
struct KeyShape {
  explicit KeyShape(std::uint32_t bits) : free_bits(KeyMixer<words>(bits).free_bits()) {
    for (std::size_t w = 1; w < words; ++w) {
      rest[w] = bits > w * 64
                    ? std::min<std::uint32_t>(bits - static_cast<std::uint32_t>(w) * 64, 64)
                    : 0;
    }
  }
  std::uint32_t free_bits;                  // of the first word, the lowest
  std::array<std::uint32_t, words> rest{};  // bits of each word but the first
};

// Immutable; where its words are kept it takes memory or a file.
template <std::size_t words>
class KeyRun {
 public:
  std::uint64_t size() const { return keys_; }
  bool empty() const { return keys_ == 0; }
  // Its words and what else says what it is, to be saved; and back.
  std::span<const std::uint64_t> coded() const { return kept_.words(); }
  std::array<std::uint64_t, 3> facts() const { return {keys_, first_place_, rice_bits_}; }
  KeyRun() = default;
  KeyRun(std::span<const std::uint64_t> coded, const std::array<std::uint64_t, 3>& facts,
         RunShelf& shelf)
      : kept_(shelf.keep(coded)),
        keys_(facts[0]),
        first_place_(facts[1]),
        rice_bits_(static_cast<std::uint32_t>(facts[2])) {}
  void forget_pages() const { kept_.forget_pages(); }

 private:
  template <std::size_t>
  friend class KeyRunReader;
  RunShelf::Kept kept_;
  std::uint64_t keys_ = 0;
  std::uint64_t first_place_ = 0;  // the word with which places begin, two words each
  std::uint32_t rice_bits_ = 0;
};

inline constexpr std::size_t keys_of_a_place = 256;
// So many bits can be read or written at once, wherever they begin.
inline constexpr std::uint32_t most_few = 56;
// A difference of so many times 2^rice_bits or more is written as it is.
inline constexpr std::uint32_t most_ones = 24;

// Writes one run after the other. One owner; its memory is that of the longest run.
template <std::size_t words>
class KeyRunWriter {
 public:
  explicit KeyRunWriter(const KeyShape<words>& shape) : shape_(shape) {}

  // Of about so many keys, in a share of all there are of 2^-key_part_bits.
  void begin(std::uint64_t keys, std::uint32_t part_bits);
  // Ascending, none twice.
  void add(const Key<words>& key) {
    const std::uint64_t first = key[0] >> shape_.free_bits;
    if (keys_++ % keys_of_a_place == 0) {
      places_.push_back(key[0]);
      places_.push_back(bit_);
      coded_.resize(bit_ / 64 + keys_of_a_place * most_words_a_key, 0);
    } else {
      put_difference(first - before_);
    }
    before_ = first;
    for (std::size_t w = 1; w < words; ++w) put(key[w], shape_.rest[w]);
  }
  KeyRun<words> finish(RunShelf& shelf);

 private:
  static constexpr std::size_t most_words_a_key = 2 + words;

  // Without a branch that would be foretold wrongly, and without reading what was just written: a
  // whole word goes out every time, and what is left of its last byte goes out again.
  void put_few(std::uint64_t value, std::uint32_t bits) {
    open_ |= value << bit_ % 8;
    std::memcpy(reinterpret_cast<std::byte*>(coded_.data()) + bit_ / 8, &open_, sizeof open_);
    open_ >>= (bit_ % 8 + bits) / 8 * 8;
    bit_ += bits;
  }
  void put(std::uint64_t value, std::uint32_t bits) {
    if (bits <= most_few) return put_few(value, bits);
    put_few(value & 0xFFFFFFFF, 32);
    put_few(value >> 32, bits - 32);
  }
  void put_difference(std::uint64_t difference) {
    const std::uint64_t times = difference >> rice_bits_;
    if (times >= most_ones) {
      put((std::uint64_t{1} << most_ones) - 1, most_ones);
      put(difference, 64);
      return;
    }
    // So many ones, a zero, and the rest.
    const std::uint32_t ones = static_cast<std::uint32_t>(times) + 1;
    const std::uint64_t left = difference & ((std::uint64_t{1} << rice_bits_) - 1);
    if (ones + rice_bits_ <= most_few) {
      put_few(((std::uint64_t{1} << times) - 1) | left << ones, ones + rice_bits_);
    } else {
      put_few((std::uint64_t{1} << times) - 1, ones);
      put(left, rice_bits_);
    }
  }

  const KeyShape<words> shape_;
  std::vector<std::uint64_t> coded_;
  std::vector<std::uint64_t> places_;
  std::uint64_t bit_ = 0;   // written
  std::uint64_t open_ = 0;  // bits of the byte that is not full
  std::uint32_t rice_bits_ = 0;
  std::uint64_t keys_ = 0;
  std::uint64_t before_ = 0;
};

// Goes through a run in order. The run must outlive it.
template <std::size_t words>
class KeyRunReader {
 public:
  KeyRunReader(const KeyRun<words>& run, const KeyShape<words>& shape)
      : shape_(shape),
        coded_(run.coded()),
        keys_(run.keys_),
        first_place_(run.first_place_),
        rice_bits_(run.rice_bits_) {
    if (keys_ > 0) read();
  }

  bool at_end() const { return at_ >= keys_; }
  const Key<words>& key() const { return key_; }
  void advance() {
    if (++at_ < keys_) read();
  }
  // To the key of this number.
  void advance_to(std::uint64_t number);
  // Whether the run has a key; those asked for ascend. Passes over what lies before it.
  bool contains(const Key<words>& key);

 private:
  std::uint64_t place_key(std::uint64_t place) const { return coded_[first_place_ + place * 2]; }
  // The next 56 bits, and some more. Those behind the last one are of places.
  std::uint64_t peek() const {
    std::uint64_t here;
    std::memcpy(&here, reinterpret_cast<const std::byte*>(coded_.data()) + bit_ / 8, sizeof here);
    return here >> bit_ % 8;
  }
  std::uint64_t take(std::uint32_t bits) {
    if (bits > most_few) {
      const std::uint64_t low = take(32);
      return low | take(bits - 32) << 32;
    }
    const std::uint64_t result = peek() & low_bits(bits);
    bit_ += bits;
    return result;
  }
  static std::uint64_t low_bits(std::uint32_t bits) { return (std::uint64_t{1} << bits) - 1; }
  void read() {
    if (at_ % keys_of_a_place == 0) {
      const std::uint64_t place = at_ / keys_of_a_place;
      key_[0] = place_key(place);
      bit_ = coded_[first_place_ + place * 2 + 1];
    } else {
      key_[0] += take_difference() << shape_.free_bits;
    }
    for (std::size_t w = 1; w < words; ++w) key_[w] = take(shape_.rest[w]);
  }
  std::uint64_t take_difference() {
    const std::uint64_t here = peek();
    const auto times = static_cast<std::uint32_t>(std::countr_one(here));
    if (times >= most_ones) {
      bit_ += most_ones;
      return take(64);
    }
    bit_ += times + 1;
    if (times + 1 + rice_bits_ > most_few)
      return std::uint64_t{times} << rice_bits_ | take(rice_bits_);
    bit_ += rice_bits_;
    return std::uint64_t{times} << rice_bits_ | (here >> (times + 1) & low_bits(rice_bits_));
  }

  KeyShape<words> shape_;
  std::span<const std::uint64_t> coded_;
  std::uint64_t keys_ = 0;
  std::uint64_t first_place_ = 0;
  std::uint32_t rice_bits_ = 0;
  std::uint64_t at_ = 0;  // the number of the key
  std::uint64_t bit_ = 0;
  Key<words> key_{};
};

// Puts keys in order, each once. `spare` is memory for it.
template <std::size_t words>
void put_in_order(std::vector<Key<words>>& keys, std::uint32_t part_bits,
                  std::vector<Key<words>>& spare);

}  // namespace orchard::explore
