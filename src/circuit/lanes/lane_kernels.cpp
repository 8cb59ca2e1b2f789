#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "circuit/lanes/lane_kernels.cpp"
#include <hwy/foreach_target.h>  // compiles this file once for each kind of processor
// (the order of these matters)
#include <hwy/highway.h>

#include <array>
#include <bit>

#include "circuit/lanes/lane_kernels.hpp"

HWY_BEFORE_NAMESPACE();
namespace orchard::circuit::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t words_a_block = lanes / 64;
const hn::CappedTag<std::uint64_t, words_a_block> tag;
using Vector = hn::Vec<decltype(tag)>;

inline std::size_t step() {
  return hn::Lanes(tag);
}
inline Vector load(const LaneBlock& block, std::size_t at) {
  return hn::Load(tag, block.words.data() + at);
}
inline void store(Vector vector, LaneBlock& block, std::size_t at) {
  hn::Store(vector, tag, block.words.data() + at);
}
inline bool any(Vector vector) {
  return !hn::AllTrue(tag, hn::Eq(vector, hn::Zero(tag)));
}

// Written so that the compiler sees the rotation: the library's own does not compile without
// optimisation, and shifts as the library writes them stay two shifts.
template <int bits>
inline Vector rotate_left(Vector vector) {
#if HWY_TARGET == HWY_AVX3 || HWY_TARGET == HWY_AVX3_DL
  using Words = std::uint64_t __attribute__((vector_size(64)));
  const auto words = reinterpret_cast<Words>(vector.raw);
  return Vector{reinterpret_cast<__m512i>(words << bits | words >> (64 - bits))};
#else
  return hn::Or(hn::ShiftLeft<bits>(vector), hn::ShiftRight<64 - bits>(vector));
#endif
}

// One instruction; the library's own does not compile without optimisation or with sanitizers.
HWY_INLINE Vector choose(Vector mask, Vector yes, Vector no) {
#if defined(__OPTIMIZE__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
  return hn::IfVecThenElse(mask, yes, no);
#else
  return hn::Xor(no, hn::And(mask, hn::Xor(yes, no)));
#endif
}

// One generator a word; `s` is its state.
struct Generator {
  Vector s0, s1, s2, s3;
  static Generator read(const LaneBlock* state, std::size_t at) {
    return {load(state[0], at), load(state[1], at), load(state[2], at), load(state[3], at)};
  }
  void write(LaneBlock* state, std::size_t at) const {
    store(s0, state[0], at);
    store(s1, state[1], at);
    store(s2, state[2], at);
    store(s3, state[3], at);
  }
  Vector draw() {
    const Vector result = hn::Add(rotate_left<23>(hn::Add(s0, s3)), s0);
    const Vector shifted = hn::ShiftLeft<17>(s1);
    s2 = hn::Xor(s2, s0);
    s3 = hn::Xor(s3, s1);
    s1 = hn::Xor(s1, s2);
    s0 = hn::Xor(s0, s3);
    s2 = hn::Xor(s2, shifted);
    s3 = rotate_left<45>(s3);
    return result;
  }
};

void make_planes(LaneBlock* state, LaneBlock* planes, std::size_t count) {
  for (std::size_t at = 0; at < words_a_block; at += step()) {
    // Four at a time, since each waits for itself.
    Generator first = Generator::read(state, at);
    Generator second = Generator::read(state + 4, at);
    Generator third = Generator::read(state + 8, at);
    Generator fourth = Generator::read(state + 12, at);
    for (std::size_t p = 0; p < count; p += 4) {
      store(first.draw(), planes[p], at);
      store(second.draw(), planes[p + 1], at);
      store(third.draw(), planes[p + 2], at);
      store(fourth.draw(), planes[p + 3], at);
    }
    first.write(state, at);
    second.write(state + 4, at);
    third.write(state + 8, at);
    fourth.write(state + 12, at);
  }
}

bool any_lane(const LaneBlock& block) {
  Vector all = hn::Zero(tag);
  for (std::size_t at = 0; at < words_a_block; at += step()) all = hn::Or(all, load(block, at));
  return any(all);
}

// A block of the work in between, not set to nothing first.
struct alignas(64) Raw {
  std::uint64_t words[words_a_block];
};

inline std::uint64_t count(const std::uint64_t* words) {
  std::uint64_t sum = 0;
  for (std::size_t w = 0; w < words_a_block; ++w) {
    sum += static_cast<unsigned>(std::popcount(words[w]));
  }
  return sum;
}
std::uint64_t count_lanes(const LaneBlock& block) {
  return count(block.words.data());
}

// low + b + c: the sum bit stays, the carry is given.
HWY_INLINE Vector carry_of(Vector& low, Vector b, Vector c) {
  const Vector half = hn::Xor(low, b);
  const Vector carry = choose(half, c, low);
  low = hn::Xor(half, c);
  return carry;
}

// Of four blocks: what is carried from ones and twos.
HWY_INLINE Vector carry_of_four(Vector& ones, Vector& twos, const LaneBlock* blocks,
                                std::size_t stride, std::size_t at) {
  const Vector a = carry_of(ones, load(blocks[0], at), load(blocks[stride], at));
  const Vector b = carry_of(ones, load(blocks[2 * stride], at), load(blocks[3 * stride], at));
  return carry_of(twos, a, b);
}

void count_sixteen(const LaneBlock* blocks, std::size_t stride, BitCounter& counter) {
  Raw sixteens;
  for (std::size_t at = 0; at < words_a_block; at += step()) {
    Vector ones = load(counter.ones, at);
    Vector twos = load(counter.twos, at);
    Vector fours = load(counter.fours, at);
    Vector eights = load(counter.eights, at);
    const Vector a = carry_of_four(ones, twos, blocks, stride, at);
    const Vector b = carry_of_four(ones, twos, blocks + 4 * stride, stride, at);
    const Vector first = carry_of(fours, a, b);
    const Vector c = carry_of_four(ones, twos, blocks + 8 * stride, stride, at);
    const Vector d = carry_of_four(ones, twos, blocks + 12 * stride, stride, at);
    const Vector second = carry_of(fours, c, d);
    hn::Store(carry_of(eights, first, second), tag, sixteens.words + at);
    store(ones, counter.ones, at);
    store(twos, counter.twos, at);
    store(fours, counter.fours, at);
    store(eights, counter.eights, at);
  }
  counter.sixteens += count(sixteens.words);
}

PlyOutcome finish_ply(const LanePly& ply, LaneBlock& carry) {
  PlyOutcome outcome;
  Vector some_over = hn::Zero(tag);
  Vector some_conflict = hn::Zero(tag);
  Vector some_overlap = hn::Zero(tag);
  for (std::size_t at = 0; at < words_a_block; at += step()) {
    const Vector here = load(*ply.over, at);
    some_over = hn::Or(some_over, here);
    some_conflict = hn::Or(some_conflict, load(*ply.conflict, at));
    some_overlap = hn::Or(some_overlap, hn::And(here, load(*ply.pending, at)));
  }
  outcome.over = any(some_over);
  outcome.conflict = any(some_conflict);
  outcome.overlap = any(some_overlap);
  if (outcome.conflict || outcome.overlap) return outcome;
  Vector some_carry = hn::Zero(tag);
  for (std::size_t at = 0; at < words_a_block; at += step()) {
    const Vector over = load(*ply.over, at);
    Vector more = load(*ply.moved, at);
    for (std::size_t b = 0; b < ply.age_bits; ++b) {
      const Vector age = load(ply.ages[b], at);
      store(choose(over, age, load(ply.pending_ages[b], at)), ply.pending_ages[b], at);
      store(hn::AndNot(over, hn::Xor(age, more)), ply.ages[b], at);
      more = hn::And(age, more);
    }
    store(more, carry, at);
    some_carry = hn::Or(some_carry, more);
    if (!outcome.over) continue;
    for (std::size_t v = 0; v < ply.value_count; ++v) {
      const Vector value = load(ply.values[v], at);
      store(choose(over, value, load(ply.pending_values[v], at)), ply.pending_values[v], at);
    }
    store(hn::Or(over, load(*ply.pending, at)), *ply.pending, at);
    store(hn::Or(load(*ply.ended, at), load(*ply.pending_ended, at)), *ply.pending_ended, at);
  }
  outcome.carry = any(some_carry);
  return outcome;
}

// Goes down the numbers bit by bit, highest first, as long as lanes have them.
std::size_t count_numbers(const LaneBlock* bits, std::size_t bit_count, const LaneBlock& of_lanes,
                          NumberCount* found) {
  struct Visit {
    Raw here;
    std::uint64_t number;
    std::size_t bits_left;
  };
  Visit open[65];  // one a bit at most waits
  std::size_t waiting = 1;
  std::size_t result = 0;
  for (std::size_t w = 0; w < words_a_block; ++w) open[0].here.words[w] = of_lanes.words[w];
  open[0].number = 0;
  open[0].bits_left = bit_count;
  while (waiting > 0) {
    Visit& low = open[waiting - 1];
    if (low.bits_left == 0) {
      found[result++] = {low.number, count(low.here.words)};
      --waiting;
      continue;
    }
    const std::size_t bit = --low.bits_left;
    Visit& high = open[waiting];
    high.number = low.number | std::uint64_t{1} << bit;
    high.bits_left = bit;
    Vector some_low = hn::Zero(tag);
    Vector some_high = hn::Zero(tag);
    for (std::size_t at = 0; at < words_a_block; at += step()) {
      const Vector here = hn::Load(tag, low.here.words + at);
      const Vector has = load(bits[bit], at);
      const Vector with = hn::And(here, has);
      const Vector without = hn::AndNot(has, here);
      hn::Store(with, tag, high.here.words + at);
      hn::Store(without, tag, low.here.words + at);
      some_high = hn::Or(some_high, with);
      some_low = hn::Or(some_low, without);
    }
    const bool keeps_high = any(some_high);
    if (!any(some_low)) {
      if (keeps_high)
        low = high;
      else
        --waiting;
    } else if (keeps_high) {
      ++waiting;
    }
  }
  return result;
}

bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& of_lanes, std::uint64_t* counts) {
  for (std::size_t p = 0; p < pattern_count; ++p) {
    Raw with;
    const std::uint64_t* const flip = flips + p * value_count;
    for (std::size_t at = 0; at < words_a_block; at += step()) {
      const Vector open = load(of_lanes, at);
      Vector same = open;
      for (std::size_t v = 0; v < value_count; ++v) {
        same = hn::And(same, hn::Xor(load(values[v], at), hn::Set(tag, flip[v])));
      }
      hn::Store(same, tag, with.words + at);
      store(hn::AndNot(same, open), of_lanes, at);
    }
    counts[p] += count(with.words);
  }
  return HWY_NAMESPACE::any_lane(of_lanes);
}

void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& of_lanes, LaneBlock& some) {
  for (std::size_t at = 0; at < words_a_block; at += step()) {
    const Vector these = load(of_lanes, at);
    Vector borrow = these;
    Vector all = hn::Zero(tag);
    for (std::size_t b = 0; b < count; ++b) {
      const Vector before = load(bits[b], at);
      const Vector after = hn::Xor(before, borrow);
      store(after, bits[b], at);
      borrow = hn::AndNot(before, borrow);
      all = hn::Or(all, after);
    }
    store(hn::AndNot(hn::AndNot(all, these), load(some, at)), some, at);
  }
}

}  // namespace orchard::circuit::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace orchard::circuit {

HWY_EXPORT(make_planes);
HWY_EXPORT(any_lane);
HWY_EXPORT(count_lanes);
HWY_EXPORT(count_sixteen);
HWY_EXPORT(finish_ply);
HWY_EXPORT(count_numbers);
HWY_EXPORT(count_patterns);
HWY_EXPORT(count_down);

void make_planes(LaneBlock* state, LaneBlock* planes, std::size_t count) {
  HWY_DYNAMIC_DISPATCH(make_planes)(state, planes, count);
}
bool any_lane(const LaneBlock& block) {
  return HWY_DYNAMIC_DISPATCH(any_lane)(block);
}
std::uint64_t count_lanes(const LaneBlock& block) {
  return HWY_DYNAMIC_DISPATCH(count_lanes)(block);
}
std::uint64_t BitCounter::total() const {
  return more + count_lanes(ones) + 2 * count_lanes(twos) + 4 * count_lanes(fours) +
         8 * count_lanes(eights) + 16 * sixteens;
}
void count_sixteen(const LaneBlock* blocks, std::size_t stride, BitCounter& counter) {
  HWY_DYNAMIC_DISPATCH(count_sixteen)(blocks, stride, counter);
}
void count_one(const LaneBlock& block, BitCounter& counter) {
  counter.more += count_lanes(block);
}
PlyOutcome finish_ply(const LanePly& ply, LaneBlock& carry) {
  return HWY_DYNAMIC_DISPATCH(finish_ply)(ply, carry);
}
std::size_t count_numbers(const LaneBlock* bits, std::size_t bit_count, const LaneBlock& of_lanes,
                          NumberCount* found) {
  return HWY_DYNAMIC_DISPATCH(count_numbers)(bits, bit_count, of_lanes, found);
}
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& of_lanes, std::uint64_t* counts) {
  return HWY_DYNAMIC_DISPATCH(count_patterns)(values, value_count, flips, pattern_count, of_lanes,
                                              counts);
}
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& of_lanes, LaneBlock& some) {
  HWY_DYNAMIC_DISPATCH(count_down)(bits, count, of_lanes, some);
}

}  // namespace orchard::circuit
#endif
