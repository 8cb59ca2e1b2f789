#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "circuit/lane_kernels.cpp"
#include <hwy/foreach_target.h>  // compiles this file once for each kind of processor
// (the order of these matters)
#include <hwy/highway.h>

#include "circuit/lane_kernels.hpp"

HWY_BEFORE_NAMESPACE();
namespace orchard::circuit::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t words = lanes / 64;
const hn::CappedTag<std::uint64_t, words> tag;
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
inline void add_to(LaneBlock& sums, std::size_t at, Vector counts) {
  store(hn::Add(load(sums, at), counts), sums, at);
}
inline bool any(Vector vector) {
  return !hn::AllTrue(tag, hn::Eq(vector, hn::Zero(tag)));
}

// Written out: the library's own rotation does not compile without optimisation.
template <int bits>
inline Vector rotate_left(Vector vector) {
  return hn::Or(hn::ShiftLeft<bits>(vector), hn::ShiftRight<64 - bits>(vector));
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
  for (std::size_t at = 0; at < words; at += step()) {
    // Two at a time, since each waits for itself.
    Generator even = Generator::read(state, at);
    Generator odd = Generator::read(state + 4, at);
    for (std::size_t p = 0; p < count; p += 2) {
      store(even.draw(), planes[p], at);
      store(odd.draw(), planes[p + 1], at);
    }
    even.write(state, at);
    odd.write(state + 4, at);
  }
}

bool find_ended(const LaneBlock& terminal, const LaneBlock& stuck, const LaneBlock& active,
                LaneBlock& ended) {
  Vector all = hn::Zero(tag);
  for (std::size_t at = 0; at < words; at += step()) {
    const Vector here = hn::And(hn::Or(load(terminal, at), load(stuck, at)), load(active, at));
    store(here, ended, at);
    all = hn::Or(all, here);
  }
  return any(all);
}

LaneBlock running_lanes(const LaneBlock& terminal, const LaneBlock& stuck,
                        const LaneBlock& active) {
  LaneBlock running;
  for (std::size_t at = 0; at < words; at += step()) {
    store(hn::AndNot(hn::Or(load(terminal, at), load(stuck, at)), load(active, at)), running, at);
  }
  return running;
}

void count_role_moves(const LaneBlock& running, const LaneBlock& to_move, const LaneBlock& forced,
                      const LaneBlock* bits, std::size_t bit_count, LaneBlock& positions,
                      LaneBlock& choices) {
  for (std::size_t at = 0; at < words; at += step()) {
    const Vector moving = hn::And(load(running, at), load(to_move, at));
    const Vector only = hn::And(moving, load(forced, at));
    const Vector choosing = hn::AndNot(only, moving);
    add_to(positions, at, hn::PopulationCount(moving));
    Vector weighted = hn::Zero(tag);
    for (std::size_t b = bit_count; b-- > 0;) {  // the highest bit is doubled most often
      weighted = hn::Add(weighted, weighted);
      weighted = hn::Add(weighted, hn::PopulationCount(hn::And(choosing, load(bits[b], at))));
    }
    add_to(choices, at, hn::Add(weighted, hn::PopulationCount(only)));
  }
}

bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& of_lanes, LaneBlock* sums) {
  Vector rest = hn::Zero(tag);
  for (std::size_t at = 0; at < words; at += step()) {
    Vector open = load(of_lanes, at);
    for (std::size_t p = 0; p < pattern_count; ++p) {
      Vector same = open;
      const std::uint64_t* const flip = flips + p * value_count;
      for (std::size_t v = 0; v < value_count; ++v) {
        same = hn::And(same, hn::Xor(load(values[v], at), hn::Set(tag, flip[v])));
      }
      add_to(sums[p], at, hn::PopulationCount(same));
      open = hn::AndNot(same, open);
    }
    store(open, of_lanes, at);
    rest = hn::Or(rest, open);
  }
  return any(rest);
}

void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& of_lanes, LaneBlock& some) {
  for (std::size_t at = 0; at < words; at += step()) {
    Vector borrow = load(of_lanes, at);
    Vector all = hn::Zero(tag);
    for (std::size_t b = 0; b < count; ++b) {
      const Vector before = load(bits[b], at);
      const Vector after = hn::Xor(before, borrow);
      store(after, bits[b], at);
      borrow = hn::AndNot(before, borrow);
      all = hn::Or(all, after);
    }
    store(all, some, at);
  }
}

}  // namespace orchard::circuit::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace orchard::circuit {

HWY_EXPORT(make_planes);
HWY_EXPORT(find_ended);
HWY_EXPORT(running_lanes);
HWY_EXPORT(count_role_moves);
HWY_EXPORT(count_patterns);
HWY_EXPORT(count_down);

void make_planes(LaneBlock* state, LaneBlock* planes, std::size_t count) {
  HWY_DYNAMIC_DISPATCH(make_planes)(state, planes, count);
}
bool find_ended(const LaneBlock& terminal, const LaneBlock& stuck, const LaneBlock& active,
                LaneBlock& ended) {
  return HWY_DYNAMIC_DISPATCH(find_ended)(terminal, stuck, active, ended);
}
LaneBlock running_lanes(const LaneBlock& terminal, const LaneBlock& stuck,
                        const LaneBlock& active) {
  return HWY_DYNAMIC_DISPATCH(running_lanes)(terminal, stuck, active);
}
void count_role_moves(const LaneBlock& running, const LaneBlock& to_move, const LaneBlock& forced,
                      const LaneBlock* bits, std::size_t bit_count, LaneBlock& positions,
                      LaneBlock& choices) {
  HWY_DYNAMIC_DISPATCH(count_role_moves)
  (running, to_move, forced, bits, bit_count, positions, choices);
}
bool count_patterns(const LaneBlock* values, std::size_t value_count, const std::uint64_t* flips,
                    std::size_t pattern_count, LaneBlock& of_lanes, LaneBlock* sums) {
  return HWY_DYNAMIC_DISPATCH(count_patterns)(values, value_count, flips, pattern_count, of_lanes,
                                              sums);
}
void count_down(LaneBlock* bits, std::size_t count, const LaneBlock& of_lanes, LaneBlock& some) {
  HWY_DYNAMIC_DISPATCH(count_down)(bits, count, of_lanes, some);
}

}  // namespace orchard::circuit
#endif
