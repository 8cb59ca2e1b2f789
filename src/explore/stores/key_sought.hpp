// What is done with keys that are found: all are kept, or one is looked out for.
#pragma once

#include <utility>
#include <vector>

#include "explore/keys/key_sink.hpp"

namespace orchard::explore {

struct KeyList final : KeySink<1> {
  std::vector<Key<1>> keys;
  void add(std::span<const Key<1>> found) override {
    keys.insert(keys.end(), found.begin(), found.end());
  }
};

template <std::size_t words>
class KeySought final : public KeySink<words> {
 public:
  explicit KeySought(const Key<words>& key) : key_(key) {}
  void add(std::span<const Key<words>> found) override {
    for (const Key<words>& key : found) hit_ = hit_ || same_key(key, key_);
  }
  // Whether it was found since the last call.
  bool take() { return std::exchange(hit_, false); }

 private:
  Key<words> key_;
  bool hit_ = false;
};

}  // namespace orchard::explore
