#include "picture/inferred/marks.hpp"

#include <algorithm>

namespace orchard {
namespace {

constexpr std::size_t most_tried = 64;  // moves whose change is looked at
constexpr std::size_t most_marked = 2;  // squares that one move changed

std::map<Square, std::vector<Content>> contents_of(const PictureLayout& layout,
                                                   const GameCore& core,
                                                   std::span<const TermId> fluents) {
  std::map<Square, std::vector<Content>> result;
  for (const TermId fluent : fluents) {
    if (auto placed = layout.place(core, fluent)) {
      result[placed->square].push_back(std::move(placed->content));
    }
  }
  for (auto& [square, contents] : result) std::ranges::sort(contents);
  return result;
}

std::optional<Square> only_changed_square(const Game& game, const PictureLayout& layout,
                                          const Position& position, const NumberedMove& move) {
  const auto joint = game.joint_move(position, move.role, move.move);
  if (!joint) return std::nullopt;
  const auto next = game.next(position, *joint);
  if (!next) return std::nullopt;
  const GameCore& core = *GameAccess::core(game);
  const auto before = contents_of(layout, core, GameAccess::state(position).fluents());
  const auto after = contents_of(layout, core, GameAccess::state(*next).fluents());
  std::optional<Square> changed;
  const auto compare = [&](const auto& these, const auto& those) {
    for (const auto& [square, contents] : these) {
      const auto other = those.find(square);
      if (other != those.end() && other->second == contents) continue;
      if (changed && *changed != square) return false;
      changed = square;
    }
    return true;
  };
  return compare(before, after) && compare(after, before) ? changed : std::nullopt;
}

}  // namespace

std::map<Square, std::vector<std::size_t>> mark_squares(const Game& game,
                                                        const PictureLayout& layout,
                                                        const Position& position,
                                                        const std::vector<NumberedMove>& moves) {
  std::map<Square, std::vector<std::size_t>> result;
  if (layout.boards().empty()) return result;
  const bool try_changes = moves.size() <= most_tried && !game.terminal(position);
  for (const NumberedMove& move : moves) {
    auto square =
        layout.named_square(*GameAccess::core(game), GameAccess::id(move.move), move.role);
    if (!square && try_changes) square = only_changed_square(game, layout, position, move);
    if (square) result[*square].push_back(move.number);
  }
  return result;
}

std::vector<Square> changed_squares(const Game& game, const PictureLayout& layout,
                                    const Position& before, const Position& after) {
  const GameCore& core = *GameAccess::core(game);
  const auto old_ones = contents_of(layout, core, GameAccess::state(before).fluents());
  const auto new_ones = contents_of(layout, core, GameAccess::state(after).fluents());
  const auto is_bare = [&](const Square& square, const std::vector<Content>& contents) {
    const auto& bare = layout.boards()[square.board].bare;
    return std::ranges::all_of(contents, [&](const Content& content) { return content == bare; });
  };
  std::vector<Square> filled;
  std::vector<Square> cleared;
  for (const auto& [square, contents] : new_ones) {
    const auto old = old_ones.find(square);
    if (old != old_ones.end() && old->second == contents) continue;
    (is_bare(square, contents) ? cleared : filled).push_back(square);
  }
  for (const auto& [square, contents] : old_ones) {
    if (!new_ones.contains(square)) cleared.push_back(square);
  }
  std::vector<Square>& told = filled.empty() ? cleared : filled;
  if (told.size() > most_marked) told.clear();
  return told;
}

}  // namespace orchard
