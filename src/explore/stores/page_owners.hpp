// Which of several workers owns a page of a bitmap: reads it and writes into it.
//
// By some bits of its number, which share keys out evenly and are rarely changed by a step: most
// keys have the owner of those they follow from. While it is asked it may not be changed.
#pragma once

#include <vector>

#include "explore/stores/key_bitmap.hpp"

namespace orchard::explore {

class PageOwners {
 public:
  explicit PageOwners(std::size_t workers) : workers_(workers) {}
  std::size_t workers() const { return workers_; }

  struct Step {
    std::uint64_t from = 0;  // keys
    std::uint64_t to = 0;
  };
  // Anew, for these pages of a map and some of the steps from their keys. Counts some of the
  // keys of some thousand pages.
  void share_out(const KeyBitmap& map, std::span<const std::uint64_t> pages,
                 std::span<const Step> steps);

  std::size_t owner_of_page(std::uint64_t page) const {
    std::uint64_t value = 0;
    for (std::size_t b = 0; b < bits_.size(); ++b) value |= (page >> bits_[b] & 1) << b;
    return value * workers_ >> bits_.size();
  }
  std::size_t owner(std::uint64_t key) const { return owner_of_page(key / KeyBitmap::page_keys); }

  // Keys that agree with `value` in the bits of `mask` are a worker's own: all of them where the
  // workers are a power of two, else some. Told faster than the owner is.
  struct Own {
    std::uint64_t mask = 0;
    std::uint64_t value = 0;
  };
  Own own(std::size_t worker) const;

 private:
  std::size_t workers_;
  std::vector<std::uint32_t> bits_;
};

}  // namespace orchard::explore
