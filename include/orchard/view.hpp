// What a role can know of a position: with hidden information (the language's `sees`), a role knows
// its own moves, what it sees, the rules and the position the game began at, and nothing more.
//
//   orchard::View view(game, game.roles()[1]);
//   view.advance(position, joint);             // the true ones; only what the role sees is kept
//   for (const auto& fluent : view.known()) …  // true in every position that fits
//
// The positions that fit are tracked exactly up to a bound; beyond it `exact` is false from then
// on, and only some of them are: a sample, moved on and renewed with every ply. Without hidden
// information the role sees the position itself. A View is a value; it belongs to one thread at a
// time. Source: the published extension of the language for incomplete information (2010).
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

namespace rules {
enum class TermId : std::uint32_t;  // inner
}

namespace explore {
class PossiblePasts;  // inner
}

// What one role can know of the position, from its own moves and percepts.
class View {
 public:
  // The most possible positions that are tracked exactly unless asked otherwise.
  static constexpr std::size_t usual_positions = 100'000;

  // What the role knows at a position that everybody knows: the start of the game if not set.
  View(const Game& game, Role role, std::optional<Position> start = {},
       std::size_t most_positions = usual_positions);

  // A step of play. Keeps the positions that fit the role's own move and percepts. Fails as
  // Game::next does if the joint move is not legal in `position`; then nothing changes.
  // O(positions that fit · joint moves of the others in each).
  Diagnostics advance(const Position& position, const JointMove& joint);

  // The role whose view it is.
  const Role& role() const { return role_; }
  // Whether all positions that fit are known.
  bool exact() const { return exact_; }
  // How many positions fit; if not exact, how many of them are known: 0 if none was found, or the
  // rules have no circuit.
  std::size_t positions() const { return positions_.size(); }
  // The fluents true in all positions that fit, in the order of Term; none if not exact.
  std::vector<Term> known() const;

  // Some of the positions that fit, each different, chosen by the seed.
  std::vector<Position> some(std::size_t most, std::uint64_t seed) const;

  // A ply as the role knows it.
  struct Step {
    // The move that the role itself made.
    Term own_move;
    // What the role perceived then.
    std::vector<Term> percepts;
  };
  // Everything the role did and saw, ply by ply.
  const std::vector<Step>& steps() const { return steps_; }

 private:
  bool sample(const Step& last);
  bool expand(const Move& own, const std::vector<Term>& percepts);
  std::optional<bool> expand_on_lanes(rules::TermId own, const std::vector<rules::TermId>& seen);

  Game game_;
  Role role_;
  std::size_t most_positions_;
  bool exact_ = true;
  std::vector<std::vector<std::uint32_t>> positions_;  // ids of fluents, ascending
  std::vector<Step> steps_;
  std::vector<std::uint32_t> start_;               // ids of fluents
  std::shared_ptr<explore::PossiblePasts> pasts_;  // if not exact; never shared between views
};

}  // namespace orchard
