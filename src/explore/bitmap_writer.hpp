// What one thread puts into the bitmaps of a census.
#pragma once

#include <algorithm>
#include <array>

#include "explore/key.hpp"
#include "explore/key_bitmap.hpp"

namespace orchard::explore {

// Puts in what one worker found: a few keys later, so that the memory they touch is there by then.
class BitmapWriter {
 public:
  // Into `next`, unless `reached`, which may be null, has it.
  BitmapWriter(KeyBitmap& next, const KeyBitmap* reached, bool shared)
      : next_(&next), reached_(reached), shared_(shared) {}
  void go_on_into(KeyBitmap& next) { next_ = &next; }

  void add(const Key<1>& key) {
    next_->prefetch(key[0]);
    if (added_ >= waiting_.size()) insert(waiting_[added_ % waiting_.size()]);
    waiting_[added_++ % waiting_.size()] = key[0];
  }
  // Before anybody looks.
  void finish() {
    const std::size_t waiting = std::min(added_, waiting_.size());
    for (std::size_t i = 0; i < waiting; ++i) insert(waiting_[i]);
    added_ = 0;
  }
  std::uint64_t fresh() const { return fresh_; }

 private:
  void insert(std::uint64_t key) {
    if (reached_ != nullptr && reached_->contains(key)) return;
    fresh_ += (shared_ ? next_->insert_shared(key) : next_->insert(key)) ? 1 : 0;
  }

  KeyBitmap* next_;
  const KeyBitmap* reached_;
  const bool shared_;
  std::array<std::uint64_t, 32> waiting_{};
  std::size_t added_ = 0;
  std::uint64_t fresh_ = 0;
};

}  // namespace orchard::explore
