#include "explore/stores/page_owners.hpp"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <numeric>

namespace orchard::explore {

void PageOwners::share_out(const KeyBitmap& map, std::span<const std::uint64_t> pages,
                           std::span<const Step> steps) {
  if (workers_ == 1) return;
  constexpr std::uint32_t page_bits = KeyBitmap::most_bits - 15;
  static_assert(std::uint64_t{1} << 15 == KeyBitmap::page_keys);
  constexpr std::size_t looked_at = 4096;
  constexpr std::size_t one_word_in = 7;
  const std::size_t one_in = pages.size() / looked_at + 1;
  std::array<double, page_bits> lean{};  // keys with the bit less those without
  double keys = 0;
  for (std::size_t i = 0; i < pages.size(); i += one_in) {
    int here = 0;
    const auto words = map.page(pages[i]);
    for (std::size_t w = 0; w < words.size(); w += one_word_in) here += std::popcount(words[w]);
    keys += here;
    for (std::uint32_t bit = 0; bit < page_bits; ++bit) {
      lean[bit] += (pages[i] >> bit & 1) != 0 ? here : -here;
    }
  }
  // What is worse of a bit: that one waits for the other, that keys have to be sent, or that pages
  // of both have their marks in one line of the cache.
  constexpr double waits = 1;
  constexpr double sends = 0.5;
  constexpr double beside = 0.2;
  constexpr std::uint32_t line_bits = 6;
  std::array<double, page_bits> cost{};
  for (std::uint32_t bit = 0; bit < page_bits; ++bit) {
    const auto changed = std::ranges::count_if(steps, [&](const Step& step) {
      return ((step.from ^ step.to) / KeyBitmap::page_keys >> bit & 1) != 0;
    });
    if (bit < line_bits) cost[bit] = beside;
    if (keys > 0) cost[bit] += waits * std::abs(lean[bit]) / keys;
    if (!steps.empty()) {
      cost[bit] += sends * static_cast<double>(changed) / static_cast<double>(steps.size());
    }
  }
  // One bit for two of them; where they are no power of two one more than there must be.
  const auto enough = static_cast<std::uint32_t>(std::bit_width(workers_ - 1)) +
                      (std::has_single_bit(workers_) ? 0 : 1);
  bits_.resize(page_bits);
  std::iota(bits_.begin(), bits_.end(), 0);
  std::ranges::stable_sort(bits_, {}, [&](std::uint32_t bit) { return cost[bit]; });
  bits_.resize(std::min(enough, page_bits));
}

PageOwners::Own PageOwners::own(std::size_t worker) const {
  const std::size_t value = ((worker << bits_.size()) + workers_ - 1) / workers_;
  Own result;
  for (std::size_t b = 0; b < bits_.size(); ++b) {
    const std::uint64_t bit = std::uint64_t{KeyBitmap::page_keys} << bits_[b];
    result.mask |= bit;
    if ((value >> b & 1) != 0) result.value |= bit;
  }
  return result;
}

}  // namespace orchard::explore
