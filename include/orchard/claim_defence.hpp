// Play that shows what a failed claim is worth: against whoever claims to be able to force
// something. A defence may be made from any thread; an opponent belongs to one thread at a time.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "orchard/opponent.hpp"
#include "orchard/review.hpp"

namespace orchard {

// What a claim that somebody can force something meets with: play of the other roles that keeps it
// from coming about, whatever those who claim it do.
struct ClaimDefence {
  // Who claims to be able to force it.
  std::vector<Role> claimants;
  std::vector<Choice> choice{};  // of the claim's variables, if it fails for some of them alone
  // For a role that is no claimant; where several choose at once it takes the answer to most of
  // what the claimants can choose.
  std::function<std::unique_ptr<Opponent>(std::uint64_t seed)> opponent;
};

// Of a claim of the file that `options` names. Fails with `no-such-claim` if there is none of that
// name that somebody can force something, with `claim-holds` if nothing keeps it from coming about,
// and with `not-decided` if the budget does not tell.
Result<ClaimDefence> defend_against_claim(const Game& game, const std::string& claim,
                                          const ReviewOptions& options);

}  // namespace orchard
