// Where the keys go that an expander finds: whoever keeps, sends or looks out for them.
#pragma once

#include <span>

#include "explore/keys/key.hpp"

namespace orchard::explore {

// Given what one joint move makes of a block at once, up to 512 keys, so that a virtual call a
// block is all that it costs to know nothing of one another.
template <std::size_t words>
class KeySink {
 public:
  virtual void add(std::span<const Key<words>> found) = 0;

 protected:
  ~KeySink() = default;
};

}  // namespace orchard::explore
