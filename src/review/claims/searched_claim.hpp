// A claim about single positions or steps: what is looked for is a failure (always, never,
// exclusive) or a witness (possible).
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "review/claims/claim_rules.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

// A relation that stands for a formula, for one choice of its variables.
struct Instance {
  std::vector<Choice> choice;
  Signal signal;
  bool needs_move = false;  // it asks what is done
};

// For every choice of the claim's variables.
std::vector<Instance> instances_of(const Inquiry& inquiry, const Claim& claim,
                                   const std::string& relation);

// The claim must outlive it.
class SearchedClaim {
 public:
  SearchedClaim(Watchlist& list, const Claim& claim);

  Answer conclude(Findings& findings) const;
  // What was met first; `proved` if it is known that there is nothing.
  Sought sought(Findings& findings) const;

 private:
  friend class ClaimSearch;  // what is made of the findings
  const Claim& claim_;
  std::vector<Instance> instances_;
  bool needs_moves_ = false;
  std::vector<Watched> watched_;  // an instance each; if it asks for a move, that some move is so
  std::optional<std::size_t> other_moves_;  // then, where there are moves not thought of
};

}  // namespace orchard::review
