// Looks out for one key among those that are found.
#pragma once

#include <utility>

#include "explore/key.hpp"

namespace orchard::explore {

class KeySought {
 public:
  explicit KeySought(std::uint64_t key) : key_(key) {}
  void add(const Key<1>& found) { hit_ = hit_ || found[0] == key_; }
  // Whether it was found since the last call.
  bool take() { return std::exchange(hit_, false); }

 private:
  std::uint64_t key_;
  bool hit_ = false;
};

}  // namespace orchard::explore
