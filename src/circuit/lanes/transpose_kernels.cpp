#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "circuit/lanes/transpose_kernels.cpp"
#include <hwy/foreach_target.h>  // compiles this file once for each kind of processor
// (the order of these matters)
#include <hwy/highway.h>

#include "circuit/lanes/transpose_kernels.hpp"

HWY_BEFORE_NAMESPACE();
namespace orchard::circuit::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t words_a_block = lanes / 64;
const hn::CappedTag<std::uint64_t, words_a_block> tag;
using Vector = hn::Vec<decltype(tag)>;

// Swaps the parts of a pair of words that the mask, moved up, and the mask cover.
template <int distance>
HWY_INLINE void swap_parts(Vector& low, Vector& high, std::uint64_t mask) {
  const Vector swapped = hn::And(hn::Xor(hn::ShiftRight<distance>(low), high), hn::Set(tag, mask));
  low = hn::Xor(low, hn::ShiftLeft<distance>(swapped));
  high = hn::Xor(high, swapped);
}

// Within each word, as a square of 8 × 8 bits. Source: Warren, "Hacker's Delight" (2002), 7-3.
template <int distance>
HWY_INLINE Vector swap_bits(Vector square, std::uint64_t mask) {
  const Vector swapped =
      hn::And(hn::Xor(square, hn::ShiftRight<distance>(square)), hn::Set(tag, mask));
  return hn::Xor(square, hn::Xor(swapped, hn::ShiftLeft<distance>(swapped)));
}

// Three steps of transposing among eight blocks that lie so far apart.
template <int far>
HWY_INLINE void transpose_eight(LaneBlock* first, std::uint64_t halves, std::uint64_t quarters,
                                std::uint64_t eighths) {
  constexpr int apart = far / 4;
  for (std::size_t at = 0; at < words_a_block; at += hn::Lanes(tag)) {
    const auto load = [&](int i) { return hn::Load(tag, first[i * apart].words.data() + at); };
    const auto store = [&](int i, Vector value) {
      hn::Store(value, tag, first[i * apart].words.data() + at);
    };
    Vector a = load(0), b = load(1), c = load(2), d = load(3);
    Vector e = load(4), f = load(5), g = load(6), h = load(7);
    swap_parts<far>(a, e, halves), swap_parts<far>(b, f, halves);
    swap_parts<far>(c, g, halves), swap_parts<far>(d, h, halves);
    swap_parts<far / 2>(a, c, quarters), swap_parts<far / 2>(b, d, quarters);
    swap_parts<far / 2>(e, g, quarters), swap_parts<far / 2>(f, h, quarters);
    swap_parts<far / 4>(a, b, eighths), swap_parts<far / 4>(c, d, eighths);
    swap_parts<far / 4>(e, f, eighths), swap_parts<far / 4>(g, h, eighths);
    store(0, a), store(1, b), store(2, c), store(3, d);
    store(4, e), store(5, f), store(6, g), store(7, h);
  }
}

// Source: Warren, "Hacker's Delight" (2002), 7-3.
void transpose_squares(LaneBlock* blocks) {
  for (int i = 0; i < 8; ++i) {
    transpose_eight<32>(blocks + i, 0x00000000FFFFFFFF, 0x0000FFFF0000FFFF, 0x00FF00FF00FF00FF);
  }
  for (int i = 0; i < 64; i += 8) {
    transpose_eight<4>(blocks + i, 0x0F0F0F0F0F0F0F0F, 0x3333333333333333, 0x5555555555555555);
  }
}

void add_byte_to_rows(const LaneBlock* eight, unsigned byte, std::uint64_t* rows) {
  const std::size_t step = hn::Lanes(tag);
  HWY_ALIGN std::uint64_t bytes[8][words_a_block];  // of eight lanes a word, by octet and group
  for (std::size_t at = 0; at < words_a_block; at += step) {
    const auto load = [&](std::size_t i) { return hn::Load(tag, eight[i].words.data() + at); };
    Vector a = load(0), b = load(1), c = load(2), d = load(3);
    Vector e = load(4), f = load(5), g = load(6), h = load(7);
    constexpr std::uint64_t halves = 0x00000000FFFFFFFF;
    constexpr std::uint64_t quarters = 0x0000FFFF0000FFFF;
    constexpr std::uint64_t eighths = 0x00FF00FF00FF00FF;
    swap_parts<32>(a, e, halves), swap_parts<32>(b, f, halves);
    swap_parts<32>(c, g, halves), swap_parts<32>(d, h, halves);
    swap_parts<16>(a, c, quarters), swap_parts<16>(b, d, quarters);
    swap_parts<16>(e, g, quarters), swap_parts<16>(f, h, quarters);
    swap_parts<8>(a, b, eighths), swap_parts<8>(c, d, eighths);
    swap_parts<8>(e, f, eighths), swap_parts<8>(g, h, eighths);
    const auto finish = [&](std::size_t octet, Vector square) {
      square = swap_bits<7>(square, 0x00AA00AA00AA00AA);
      square = swap_bits<14>(square, 0x0000CCCC0000CCCC);
      square = swap_bits<28>(square, 0x00000000F0F0F0F0);
      hn::Store(square, tag, bytes[octet] + at);
    };
    finish(0, a), finish(1, b), finish(2, c), finish(3, d);
    finish(4, e), finish(5, f), finish(6, g), finish(7, h);
  }
  const Vector positions = hn::Mul(hn::Iota(tag, 0), hn::Set(tag, 8));
  const Vector low_byte = hn::Set(tag, 0xFF);
  for (std::size_t group = 0; group < words_a_block; ++group) {
    for (std::size_t octet = 0; octet < 8; ++octet) {
      for (std::size_t lane = 0; lane < 8; lane += step) {
        const Vector word = hn::Set(tag, bytes[octet][group] >> (8 * lane));
        const Vector one = hn::And(hn::Shr(word, positions), low_byte);
        std::uint64_t* const row = rows + group * 64 + octet * 8 + lane;
        hn::StoreU(hn::Or(hn::LoadU(tag, row), hn::ShiftLeftSame(one, static_cast<int>(8 * byte))),
                   tag, row);
      }
    }
  }
}

}  // namespace orchard::circuit::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace orchard::circuit {

HWY_EXPORT(add_byte_to_rows);
HWY_EXPORT(transpose_squares);

void add_byte_to_rows(const LaneBlock* eight, unsigned byte, std::uint64_t* rows) {
  HWY_DYNAMIC_DISPATCH(add_byte_to_rows)(eight, byte, rows);
}

void transpose_squares(LaneBlock* blocks) {
  HWY_DYNAMIC_DISPATCH(transpose_squares)(blocks);
}

}  // namespace orchard::circuit
#endif
