// The others' answer to a claim that somebody can force something, as an opponent.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/similar.hpp"
#include "orchard/claim_defence.hpp"
#include "orchard/random.hpp"
#include "review/claims/claim_asking.hpp"
#include "review/claims/claims.hpp"

namespace orchard {

using review::Claim;
using review::Exploration;
using review::StateSpace;

namespace {

// What was found out about the claim; shared by the opponents of a match, and not changed.
struct Answered {
  Game game;
  review::Claims claims;
  std::unique_ptr<Exploration> exploration;
  solving::Forcing forcing;
  solving::Condition goal;
  solving::Found found;  // where the claimants can force it

  // Whether it neither comes about with a step nor can be forced after it.
  bool is_answer(StateSpace::Number position, std::size_t step) const {
    const StateSpace& space = exploration->space();
    return !goal.holds(space, position, step) && found[space.steps(position)[step]] == 0;
  }
};

class DefendingOpponent : public Opponent {
 public:
  DefendingOpponent(std::shared_ptr<const Answered> answered, std::uint64_t seed)
      : answered_(std::move(answered)), random_(seed) {}

  std::string name() const override { return "against-claim"; }

  Move choose(const Situation& situation) override {
    const std::vector<std::size_t> among = answers(situation);
    return situation.legal[among[random_.below(among.size())]];
  }

 private:
  // The numbers of the legal moves that answer most choices of the claimants.
  std::vector<std::size_t> answers(const Situation& situation) const {
    const StateSpace& space = answered_->exploration->space();
    const LaneGame& lanes = space.game();
    std::vector<std::set<std::size_t>> answered(situation.legal.size());
    const auto bits = lanes.bits(GameAccess::state(situation.position).fluents());
    const auto position = bits ? space.find(lanes.row(*bits)) : std::nullopt;
    if (position && *position < space.expanded()) {
      const auto choice = solving::coalition_choices(space, *position, answered_->forcing);
      std::size_t before = 1;  // joint moves for each move of the role
      for (std::size_t role = 0; role < situation.role.index(); ++role) {
        before *= space.choices(*position, role);
      }
      for (std::size_t step = 0; step < choice.size(); ++step) {
        if (!answered_->is_answer(*position, step)) continue;
        const std::size_t own = step / before % space.choices(*position, situation.role.index());
        if (own < answered.size()) answered[own].insert(choice[step]);
      }
    }
    const auto most = std::ranges::max_element(
        answered, {}, [](const std::set<std::size_t>& choices) { return choices.size(); });
    std::vector<std::size_t> result;
    for (std::size_t own = 0; own < answered.size(); ++own) {
      if (answered[own].size() == most->size()) result.push_back(own);
    }
    return result;
  }

  std::shared_ptr<const Answered> answered_;
  Random random_;
};

Result<const Claim*> forced_claim(const review::Claims& claims, const std::string& name) {
  std::vector<std::string> names;
  for (const Claim& claim : claims.claims()) {
    if (claim.roles.empty()) continue;
    if (claim.name == name) return &claim;
    names.push_back(claim.name);
  }
  std::string list;
  for (const std::string& known : names) list += (list.empty() ? "" : "; ") + known;
  const auto meant = most_similar(name, names);
  return plain_error(
      "no-such-claim",
      fmt::format("there is no claim \"{}\" that somebody can force something", name),
      meant          ? fmt::format("did you mean \"{}\"?", *meant)
      : list.empty() ? "write one into the file of claims, or name the file with --claims"
                     : "such claims are: " + list);
}

}  // namespace

Result<ClaimDefence> defend_against_claim(const Game& game, const std::string& name,
                                          const ReviewOptions& options) {
  if (GameAccess::core(game)->lanes() == nullptr) return GameAccess::core(game)->lanes_fault();
  auto claims = review::Claims::read(game, options);
  if (!claims) return claims.diagnostics();
  const auto answered =
      std::make_shared<Answered>(Answered{game, std::move(claims).value(), nullptr, {}, {}, {}});
  const auto found_claim = forced_claim(answered->claims, name);
  if (!found_claim) return found_claim.diagnostics();
  const Claim& claim = **found_claim;
  answered->exploration =
      std::make_unique<Exploration>(game, answered->claims.explored(), options.seed);
  if (Diagnostics faults = answered->exploration->explore(options.budget, options.threads,
                                                          ReviewOptions::Symmetry::never);
      !faults.empty()) {
    return faults;
  }
  const review::Inquiry inquiry(*answered->exploration);
  review::Facts facts(*answered->exploration);
  answered->forcing = review::forcing_of(game, claim);
  const StateSpace& space = answered->exploration->space();
  const auto order = review::followers_first(space, facts);
  ClaimDefence result;
  for (const std::size_t role : claim.roles) result.claimants.push_back(game.roles()[role]);
  bool decided = true;
  for (const review::Instance& instance : review::instances_of(inquiry, claim, claim.relation)) {
    answered->goal = review::condition_of(inquiry, instance);
    answered->found = solving::can_force(space, answered->goal, answered->forcing, order, true);
    if (answered->found[0] == 0) {
      result.choice = instance.choice;
      result.opponent = [answered](std::uint64_t seed) {
        return std::make_unique<DefendingOpponent>(answered, seed);
      };
      return result;
    }
    decided = decided &&
              solving::can_force(space, answered->goal, answered->forcing, order, false)[0] != 0;
  }
  if (decided) {
    return plain_error("claim-holds",
                       fmt::format("\"{}\" holds: whatever the others do, it can be forced", name),
                       "orchard check shows a line of play on which it is");
  }
  return plain_error("not-decided",
                     fmt::format("the {} positions explored do not tell whether \"{}\" holds",
                                 space.positions(), name),
                     "allow more with --positions, or make the board smaller");
}

}  // namespace orchard
