// Many positions of a game at once: what is legal, what follows, what is over, for all of them.
//
//   auto batch = orchard::Batch::make(game).value();
//   batch.assign(std::vector(10'000, game.initial()));
//   for (std::size_t i = 0; i < batch.size(); ++i) joints.push_back(choose(batch.legal(i, role)));
//   batch.advance(joints);
//
// Positions are worked out 512 side by side, each 512 when first read, so reading in ascending
// order is cheapest. Beyond that they cost a bit for each fluent. One thread at a time; a Batch
// keeps what it needs of its game alive.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "orchard/game.hpp"

namespace orchard {

// Many positions of one game, each at its own ply.
class Batch {
 public:
  // Fails with `too-many-instances` if the rules of the game cannot be instantiated.
  static Result<Batch> make(const Game& game);
  // Moves a batch; the other must not be used afterwards.
  Batch(Batch&&) noexcept;
  // Moves a batch; the other must not be used afterwards.
  Batch& operator=(Batch&&) noexcept;
  ~Batch();

  // Puts these positions in place of those there were. Fails with `unforeseen-fluent`, and changes
  // nothing, if one of them holds a fluent that no play from the start could foresee.
  Diagnostics assign(std::span<const Position> positions);
  // The number of positions in the batch.
  std::size_t size() const;

  // As of Game, for the position of a number.
  bool terminal(std::size_t at);
  std::vector<Move> legal(std::size_t at, const Role& role);  // in the order of Term
  // How many legal moves a role has.
  std::size_t legal_count(std::size_t at, const Role& role);
  // All values derived for a role.
  std::vector<Term> goals(std::size_t at, const Role& role);
  std::optional<std::int64_t> goal(std::size_t at, const Role& role);  // as of Game::goal
  // The position of a number, worked out.
  Position position(std::size_t at);

  // One legal move a role in every position that is no end; ends stay as they are, whatever their
  // joint move. Fails as Game::next does, and changes nothing, naming the first position at fault.
  Diagnostics advance(std::span<const JointMove> joints);

 private:
  struct Inner;
  explicit Batch(std::unique_ptr<Inner> inner);
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard
