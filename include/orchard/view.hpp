// What a role knows of a position: with hidden information (the language's `sees`), a role knows
// its own moves, what it sees, which moves it has, who is to move, the rules, and the position the
// game began at.
//
//   orchard::View view(game, game.roles()[1]);
//   view.advance(position, joint);             // the true ones; only what the role sees is kept
//   for (const auto& fluent : view.told()) …   // what the rules say to it, one by one
//   for (const auto& fluent : view.known()) …  // whatever follows, however hard it is to see
//
// What a role was *told* follows rule by rule; nothing that takes thinking, so that a game of
// deduction is not solved for its player. What is *known* is true in every position that fits. The
// positions that fit are tracked exactly up to a bound; beyond it `exact` is false from then on,
// and only some of them are: a sample, moved on and renewed with every ply. Either is worked out
// when it is asked for. Without hidden information the role sees the position itself. A View is a
// value; it belongs to one thread at a time. Source: the published extension of the language for
// incomplete information (2010).
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <set>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

namespace rules {
enum class TermId : std::uint32_t;  // inner
}

namespace explore {
class PossiblePasts;  // inner
class ToldPosition;   // inner
}  // namespace explore

// What one role knows of the position, from its own moves and percepts.
class View {
 public:
  // The most possible positions that are tracked exactly unless asked otherwise.
  static constexpr std::size_t usual_positions = 100'000;

  // What the role knows at a position that everybody knows: the start of the game if not set.
  View(const Game& game, Role role, std::optional<Position> start = {},
       std::size_t most_positions = usual_positions);

  // A step of play, of which the role's own move, percepts and legal moves are kept. Fails as
  // Game::next does if the joint move is not legal in `position`; then nothing changes.
  Diagnostics advance(const Position& position, const JointMove& joint);

  // The same for who is told no more than that: the role's own move, and what it perceived. Which
  // moves are legal then, and who is to move, follows from the positions that fit: moves that are
  // legal in the most of them (in all, by rules that can be played like this). Where no position is
  // found any more, they are those that what the role was told leaves. Fails with
  // `not-possible` if none is found; the view is of no use then. Only with hidden information. When
  // `most_seconds` are over, following positions is given up for good, as where none is found.
  Diagnostics hear(const Term& own_move, std::vector<Term> percepts,
                   std::optional<double> most_seconds = {});

  // Whose view it is.
  const Role& role() const { return role_; }

  // Takes it as known that at most one fluent of each group holds at any time, as
  // `exclusive_fluents` proves; who is told of one is told that the others do not hold. To be
  // called before the first step.
  void exclude(const std::vector<std::vector<Term>>& groups);
  // Whether the rules can be followed one by one: they have a circuit.
  bool tells() const;
  // The fluents that the role was told to hold, in the order of Term. O(size of the circuit) a ply.
  std::vector<Term> told() const;
  // The fluents of which it was not told whether they hold, in the order of Term.
  std::vector<Term> untold() const;
  // One that the role was once told to hold, after the start, and may or may not hold now.
  struct Memory {
    // The fluent itself.
    Term fluent;
    // The last ply at which it was known to hold.
    std::uint64_t ply = 0;
  };
  // Every such fluent, in the order of Term.
  std::vector<Memory> memories() const;

  // Whether all positions that fit are known. This and what follows costs, once a ply,
  // O(positions that fit · joint moves of the others in each).
  bool exact() const;
  // How many positions fit; if not exact, how many of them are known: 0 if none was found, or the
  // rules have no circuit.
  std::size_t positions() const;
  // The fluents true in all positions that fit, in the order of Term; none if not exact.
  std::vector<Term> known() const;
  // The fluents true in some, but not in all of them; none if not exact.
  std::vector<Term> possible() const;

  // Some of the positions that fit, each different, chosen by the seed.
  std::vector<Position> some(std::size_t most, std::uint64_t seed) const;

  // A ply as the role knows it.
  struct Step {
    // The move that the role itself made.
    Term own_move;
    // What the role perceived then.
    std::vector<Term> percepts;
    // The moves that were legal for it afterwards.
    std::vector<Term> legal;
    // Who was to move then, as Game::to_move says.
    std::vector<Role> to_move;
  };
  // Everything the role did and saw, ply by ply.
  const std::vector<Step>& steps() const { return steps_; }

 private:
  using Ids = std::vector<std::uint32_t>;  // of fluents, ascending
  const explore::ToldPosition* listen() const;
  template <class Wanted>
  std::vector<Term> fluents_where(Wanted&& wanted) const;
  void deduce() const;
  Ids common() const;
  std::vector<Term> terms_of_ids(const Ids& ids) const;
  bool sample(const Step& last) const;
  bool expand(const Step& last) const;
  std::optional<bool> expand_on_lanes(rules::TermId own,
                                      const std::vector<rules::TermId>& seen) const;

  Game game_;
  Role role_;
  std::size_t most_positions_;
  std::vector<Step> steps_;
  std::vector<Ids> exclusive_;  // of the ground program
  Ids start_;
  Ids now_;  // without hidden information, the position itself

  std::set<std::size_t> unheard_;  // steps of which it is not known what is legal after them

  // Worked out when asked for, up to so many steps.
  mutable std::size_t told_steps_ = 0;
  mutable std::shared_ptr<const explore::ToldPosition> told_;
  mutable std::size_t deduced_steps_ = 0;
  mutable bool exact_ = true;
  mutable std::vector<Ids> positions_;
  mutable std::shared_ptr<const explore::PossiblePasts> pasts_;  // if not exact
};

}  // namespace orchard
