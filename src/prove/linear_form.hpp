// Sums of signals with whole weights: how many pieces stand, how far they have come.
//
// Whether a sum can be what it should not be is asked of a solver as one signal, built as a
// decision diagram from sum to sum. Where of some signals one at most holds (the contents of a
// square), they are decided upon together; so the diagram stays small where the sum is about few
// squares. Source: Eén and Sörensson, "Translating pseudo-Boolean constraints into SAT" (2006).
#pragma once

#include <absl/container/flat_hash_map.h>

#include <cstdint>
#include <functional>
#include <optional>
#include <utility>
#include <vector>

#include "circuit/network/network.hpp"

namespace orchard::prove {

class LinearForm {
 public:
  void add(circuit::Signal signal, std::int64_t weight);
  void add(std::int64_t constant) { constant_ += constant; }
  bool is_constant() const { return weights_.empty(); }
  std::int64_t constant() const { return constant_; }
  // Signals that are not negated, and what each adds.
  const absl::flat_hash_map<std::uint32_t, std::int64_t>& weights() const { return weights_; }

 private:
  std::int64_t constant_ = 0;
  absl::flat_hash_map<std::uint32_t, std::int64_t> weights_;  // by node; never 0
};

// Groups of signals of which one holds at most.
class ExclusiveSignals {
 public:
  void add(const std::vector<circuit::Signal>& signals, bool exactly_one);

  // A form in parts, the largest first: of each part's signals one holds at most, or exactly one.
  struct Part {
    std::vector<std::pair<circuit::Signal, std::int64_t>> weights;
    bool exactly_one = false;
  };
  struct Parts {
    std::int64_t constant = 0;
    std::vector<Part> parts;
  };
  Parts parts(const LinearForm& form) const;

 private:
  struct Group {
    std::size_t size = 0;
    bool exactly_one = false;
  };
  std::vector<Group> groups_;
  struct Member {
    std::uint32_t group = 0;
    bool negated = false;
  };
  absl::flat_hash_map<std::uint32_t, std::vector<Member>> groups_of_;  // by node
};

// A signal that holds where the sum is `wrong`, as far as the groups are what they say. Nothing if
// that takes more than some thousand sums.
std::optional<circuit::Signal> sum_is(circuit::Network& network, const LinearForm& form,
                                      const ExclusiveSignals& exclusive,
                                      const std::function<bool(std::int64_t)>& wrong);

}  // namespace orchard::prove
