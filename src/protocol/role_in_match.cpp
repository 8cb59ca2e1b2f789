#include "protocol/role_in_match.hpp"

#include <fmt/core.h>

#include <algorithm>

namespace orchard::protocol {
namespace {

constexpr std::size_t most_possible = 20'000;  // positions that fit, kept for a match

Diagnostics refused(std::string message, std::string remedy = "send what was played") {
  Diagnostics faults;
  faults.add(plain_error("bad-message", std::move(message), std::move(remedy)));
  return faults;
}

}  // namespace

Situation Choice::situation() const {
  Situation result{game, role, position, legal, ply, last_position, own_last_move, nullptr};
  if (view) result.view = &*view;
  return result;
}

RoleInMatch::RoleInMatch(Game game, Role role)
    : role_(std::move(role)), match_(game), position_(game.initial()) {}

bool RoleInMatch::over() const {
  return view_ ? !lost_ && game().terminal(position_) : match_.over();
}

Diagnostics RoleInMatch::take(const Message& message, double most_seconds) {
  if (message.first) {
    if (ply() > 0) return refused(fmt::format("{} plies were played already", ply()));
    return {};
  }
  return message.turn ? take_percepts(message, most_seconds) : take_joint(message.joint);
}

Diagnostics RoleInMatch::take_joint(const std::vector<Term>& moves) {
  if (view_) return refused("what was told before were percepts", "keep to one form of messages");
  if (moves.size() != game().roles().size()) {
    return refused(fmt::format("{} moves for {} roles", moves.size(), game().roles().size()));
  }
  JointMove joint;
  for (const Term& move : moves) joint.add(game().move(move));
  if (match_.over()) return refused("the game is over");
  if (Diagnostics faults = match_.play(joint); !faults.empty()) return faults;
  position_ = match_.position();
  return {};
}

Diagnostics RoleInMatch::take_percepts(const Message& message, double most_seconds) {
  if (*message.turn != ply() + 1) {
    return refused(fmt::format("turn {} was expected, not {}", ply() + 1, *message.turn));
  }
  if (!message.own_move) return refused("the role's own move is missing");
  if (over()) return refused("the game is over");
  if (!game().has_hidden_information()) {
    // Nothing is perceived, so the own move must tell everything.
    const auto joint = game().joint_move(position_, role_, game().move(*message.own_move));
    if (!joint) {
      return refused("the rules have no percepts, so this does not tell what the others did",
                     "send the moves of all roles");
    }
    if (Diagnostics faults = match_.play(*joint); !faults.empty()) return faults;
    position_ = match_.position();
    return {};
  }
  View heard = view_ ? *view_ : View(game(), role_, {}, most_possible);
  Diagnostics faults = heard.hear(*message.own_move, message.percepts, most_seconds);
  if (!faults.empty()) return faults;
  view_ = std::move(heard);
  // One of those in which what is taken for legal is legal.
  constexpr std::size_t some = 16;
  const std::vector<Position> fitting = view_->some(some, ply());
  const auto& legal = view_->steps().back().legal;
  const auto fits = [&](const Position& position) {
    const std::vector<Move> moves = game().legal(position, role_);
    return moves.size() == legal.size() &&
           std::ranges::equal(moves, legal, {}, [](const Move& move) { return move.term(); });
  };
  const auto found = std::ranges::find_if(fitting, fits);
  // Where none is found any more, the last one stays.
  if (!fitting.empty()) position_ = found == fitting.end() ? fitting.front() : *found;
  lost_ = fitting.empty();
  return {};
}

Choice RoleInMatch::choice() const {
  Choice result{game(), role_, position_, game().legal(position_, role_), ply()};
  if (view_) {
    result.view = view_;
    result.legal.clear();
    for (const Term& move : view_->steps().back().legal) result.legal.push_back(game().move(move));
    const Term own = view_->steps().back().own_move;
    result.own_last_move = game().move(own);
  } else {
    if (game().has_hidden_information() && ply() == 0) {
      result.view.emplace(game(), role_, std::optional<Position>(), most_possible);
    }
    if (ply() > 0) {
      result.last_position = *(match_.positions().end() - 2);
      result.own_last_move = match_.joints().back()[role_];
    }
  }
  return result;
}

}  // namespace orchard::protocol
