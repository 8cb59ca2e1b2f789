#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "circuit/lanes/interpreter_kernels.cpp"
#include <hwy/foreach_target.h>  // compiles this file once for each kind of processor
// (the order of these matters)
#include <hwy/highway.h>

#include <array>
#include <utility>

#include "circuit/lanes/interpreter_kernels.hpp"

HWY_BEFORE_NAMESPACE();
namespace orchard::circuit::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

// Whether a product of operands stands in the polynomial of a table over the field of two elements:
// the sum of the table over all subsets of the product (the Reed-Muller transform).
constexpr bool has_product(int table, int product) {
  bool sum = false;
  for (int bits = 0; bits < 8; ++bits) {
    if ((bits & ~product) == 0) sum = sum != ((table >> bits & 1) != 0);
  }
  return sum;
}

template <int table>
void apply(const LaneBlock& in_a, const LaneBlock& in_b, const LaneBlock& in_c, LaneBlock& out) {
  constexpr std::size_t words = lanes / 64;
  const hn::CappedTag<std::uint64_t, words> tag;
  for (std::size_t at = 0; at < words; at += hn::Lanes(tag)) {
    const auto a = hn::Load(tag, in_a.words.data() + at);
    const auto b = hn::Load(tag, in_b.words.data() + at);
    const auto c = hn::Load(tag, in_c.words.data() + at);
    auto sum = hn::Set(tag, has_product(table, 0) ? ~std::uint64_t{0} : 0);
    if constexpr (has_product(table, 1)) sum = hn::Xor(sum, c);
    if constexpr (has_product(table, 2)) sum = hn::Xor(sum, b);
    if constexpr (has_product(table, 3)) sum = hn::Xor(sum, hn::And(b, c));
    if constexpr (has_product(table, 4)) sum = hn::Xor(sum, a);
    if constexpr (has_product(table, 5)) sum = hn::Xor(sum, hn::And(a, c));
    if constexpr (has_product(table, 6)) sum = hn::Xor(sum, hn::And(a, b));
    if constexpr (has_product(table, 7)) sum = hn::Xor(sum, hn::And(a, hn::And(b, c)));
    hn::Store(sum, tag, out.words.data() + at);
  }
}

using Apply = void (*)(const LaneBlock&, const LaneBlock&, const LaneBlock&, LaneBlock&);

template <std::size_t... tables>
constexpr std::array<Apply, 256> all_tables(std::index_sequence<tables...>) {
  return {apply<static_cast<int>(tables)>...};
}

void run_records(const LaneRecord* records, std::size_t count, const LaneBlock* const* memories,
                 LaneBlock* results) {
  static constexpr std::array<Apply, 256> table = all_tables(std::make_index_sequence<256>());
  const auto at = [&](LanePlace place) -> const LaneBlock& {
    return memories[place.memory][place.block];
  };
  for (std::size_t i = 0; i < count; ++i) {
    const LaneRecord& record = records[i];
    table[record.table](at(record.a), at(record.b), at(record.c), results[record.result]);
  }
}

}  // namespace orchard::circuit::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace orchard::circuit {

HWY_EXPORT(run_records);

void run_records(const LaneRecord* records, std::size_t count, const LaneBlock* const* memories,
                 LaneBlock* results) {
  HWY_DYNAMIC_DISPATCH(run_records)(records, count, memories, results);
}

}  // namespace orchard::circuit
#endif
