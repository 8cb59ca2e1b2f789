// Looks out for one key among those that are found.
#pragma once

#include <utility>

#include "explore/key.hpp"

namespace orchard::explore {

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
