// Copies gates of one network into another, with signals of the other in place of its inputs.
//
// What becomes constant or equal by that is gone from the copy. Both networks must outlive it; the
// one copied from must not grow meanwhile.
#pragma once

#include "circuit/network/network.hpp"

namespace orchard::circuit {

class Copier {
 public:
  Copier(const Network& from, Network& to)
      : from_(from), to_(to), copy_(from.size(), never), done_(from.size(), false) {
    done_[0] = true;
  }

  void put(Signal input, Signal by) {
    copy_[input.node()] = by ^ input.negated();
    done_[input.node()] = true;
  }

  // The signal in the other network; every input that it depends on must have been put. O(gates not
  // copied before).
  Signal operator()(Signal signal);

 private:
  const Network& from_;
  Network& to_;
  std::vector<Signal> copy_;
  std::vector<bool> done_;
  std::vector<std::uint32_t> open_;
};

}  // namespace orchard::circuit
