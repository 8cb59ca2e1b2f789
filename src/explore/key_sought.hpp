// What is done with keys that are found: all are kept, or one is looked out for.
#pragma once

#include <utility>
#include <vector>

#include "explore/key.hpp"

namespace orchard::explore {

struct KeyList {
  std::vector<Key<1>> keys;
  void add(const Key<1>& found) { keys.push_back(found); }
};

template <std::size_t words>
class KeySought {
 public:
  explicit KeySought(const Key<words>& key) : key_(key) {}
  void add(const Key<words>& found) { hit_ = hit_ || same_key(found, key_); }
  // Whether it was found since the last call.
  bool take() { return std::exchange(hit_, false); }

 private:
  Key<words> key_;
  bool hit_ = false;
};

}  // namespace orchard::explore
