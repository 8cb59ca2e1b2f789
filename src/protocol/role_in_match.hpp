// One role in one match, as its player knows it from messages: where play stands, and what is
// legal.
//
// In the form of messages that tells every move, the position is known. In the form that tells only
// percepts, it is followed by a View: what fits is known, and one of the positions that fit stands
// for the true one. A value with a state; one thread at a time.
#pragma once

#include <optional>
#include <vector>

#include "orchard/match.hpp"
#include "protocol/message.hpp"

namespace orchard::protocol {

// A choice that a role has, with all that an opponent may look at: copies, so that play may go on
// while somebody thinks.
struct Choice {
  Game game;
  Role role;
  Position position;
  std::vector<Move> legal;
  std::uint64_t ply = 0;
  std::optional<Position> last_position{};
  std::optional<Move> own_last_move{};
  std::optional<View> view{};

  // As an opponent is shown it; the choice must outlive it.
  Situation situation() const;
};

class RoleInMatch {
 public:
  RoleInMatch(Game game, Role role);

  const Game& game() const { return match_.game(); }
  const Role& role() const { return role_; }
  std::uint64_t ply() const { return view_ ? view_->steps().size() : match_.ply(); }
  bool over() const;

  // Goes on as a message of play or stop tells. Fails with `bad-message`; then nothing has changed.
  // `most_seconds`: for following the positions that fit, where something is hidden.
  Diagnostics take(const Message& message, double most_seconds);
  // What there is to choose now. Nobody may ask after the end.
  Choice choice() const;
  // Where play stands, or, where it is not known, a position that it may stand at.
  const Position& position() const { return position_; }
  // With hidden information in the form that tells only percepts.
  const std::optional<View>& view() const { return view_; }
  // The line of play so far, where every move is known.
  const Match& match() const { return match_; }

 private:
  Diagnostics take_joint(const std::vector<Term>& moves);
  Diagnostics take_percepts(const Message& message, double most_seconds);

  Role role_;
  Match match_;
  std::optional<View> view_;
  Position position_;
  bool lost_ = false;  // no position that fits is known
};

}  // namespace orchard::protocol
