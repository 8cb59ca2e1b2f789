// What one thread puts into the bitmaps of a census.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "explore/keys/key_sink.hpp"
#include "explore/stores/key_bitmap.hpp"
#include "explore/stores/page_owners.hpp"

namespace orchard::explore {

// Puts in what one worker found: a few keys later, so that the memory they touch is there by then.
// Where there are several workers each owns pages, and keys of others are sent to them.
class BitmapWriter final : public KeySink<1> {
 public:
  // Into `next`, unless `reached`, which may be null, has it.
  BitmapWriter(KeyBitmap& next, const KeyBitmap* reached, const PageOwners& owners,
               std::size_t self)
      : next_(&next),
        reached_(reached),
        owners_(owners),
        self_(self),
        own_(owners.own(self)),
        sent_(owners.workers()) {}
  void go_on_into(KeyBitmap& next) { next_ = &next; }
  // To be told when pages were shared out anew.
  void owners_changed() { own_ = owners_.own(self_); }

  void add(std::span<const Key<1>> found) override {
    for (const Key<1>& key : found) add(key);
  }
  void add(const Key<1>& key) {
    if ((key[0] & own_.mask) != own_.value) {
      if (const auto owner = owners_.owner(key[0]); owner != self_) {
        sent_[owner].push_back(key[0]);
        return;
      }
    }
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
  // What another one has sent to this one.
  void receive_from(BitmapWriter& other) {
    for (const std::uint64_t key : other.sent_[self_]) add(Key<1>{key});
    other.sent_[self_].clear();
  }
  std::uint64_t fresh() const { return fresh_; }

 private:
  void insert(std::uint64_t key) {
    if (reached_ != nullptr && reached_->contains(key)) return;
    fresh_ += next_->insert(key) ? 1 : 0;
  }

  KeyBitmap* next_;
  const KeyBitmap* reached_;
  const PageOwners& owners_;
  const std::size_t self_;
  PageOwners::Own own_;
  std::vector<std::vector<std::uint64_t>> sent_;  // by owner
  std::array<std::uint64_t, 32> waiting_{};
  std::size_t added_ = 0;
  std::uint64_t fresh_ = 0;
};

}  // namespace orchard::explore
