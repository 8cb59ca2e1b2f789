#include "solve/searched_game.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "game/core.hpp"
#include "solve/exact_search.hpp"

namespace orchard {

using solve_inner::ExactSearch;

const SearchedGame::Known* SearchedGame::known(const Position& position) const {
  const auto found = std::ranges::find(known_, position, &std::pair<Position, Known>::first);
  return found == known_.end() ? nullptr : &found->second;
}

std::optional<double> SearchedGame::value(const Position& position, std::size_t role) const {
  const Known* const found = known(position);
  return found == nullptr ? std::nullopt : found->values[role];
}

std::vector<GoodMove> SearchedGame::best(const Position& position, std::size_t role) const {
  const Known* const found = known(position);
  return found == nullptr ? std::vector<GoodMove>{} : found->best[role];
}

Diagnostics SearchedGame::keep(const std::string&) const {
  Diagnostics faults;
  faults.add(plain_error(
      "nothing-to-keep",
      "the game was searched from one position; what the others are worth is not "
      "known",
      "leave out --search, or raise --positions, so that every position is worked out"));
  return faults;
}

namespace {

Diagnostic not_searchable(std::string_view why) {
  return plain_error("not-searchable", fmt::format("this game cannot be searched: {}", why),
                     "omit --search");
}

}  // namespace

Result<std::shared_ptr<const SearchedGame>> SearchedGame::make(const Game& game,
                                                               const LaneGame& lanes,
                                                               const Position& from,
                                                               const Budget& budget) {
  ExactSearch search(lanes);
  const auto bits = lanes.bits(GameAccess::state(from).fluents());
  if (search.unsuited()) return not_searchable(name_of(*search.unsuited()));
  if (!bits) {
    return not_searchable("the position holds a fluent that no play from the start can lead to");
  }
  auto result = std::make_shared<SearchedGame>();
  result->line_ = {{from}, {}};
  constexpr std::size_t longest = 1000;
  while (result->line_.joints.size() < longest) {
    const Position& position = result->line_.last();
    const auto here = lanes.bits(GameAccess::state(position).fluents());
    if (!here) break;
    const bool is_first = result->known_.empty();
    const auto answer = search.solve(lanes.row(*here), budget, is_first);
    if (is_first) {
      result->positions_ = search.positions();
      result->ending_ = answer.ending;
      if (search.unsuited()) return not_searchable(name_of(*search.unsuited()));
      if (answer.value.empty()) {
        result->reason_ = fmt::format("the search ended ({}) after {} positions, {} plies deep",
                                      name_of(answer.ending), search.positions(), search.depth());
        return std::shared_ptr<const SearchedGame>(result);
      }
      result->complete_ = answer.all_best || answer.best.empty();
      if (!result->complete_) {
        result->reason_ = fmt::format(
            "the search ended after {} positions: the value is known, but not of every move "
            "whether "
            "it keeps it",
            search.positions());
      }
    }
    if (answer.value.empty()) break;
    Known known{answer.value, std::vector<std::vector<GoodMove>>(game.roles().size())};
    if (!answer.best.empty()) {
      for (const Role& role : game.roles()) {
        for (const Move& only : game.legal(position, role)) {
          if (role.index() != answer.chooser) known.best[role.index()].push_back({only, 1});
        }
      }
      const auto& moves = lanes.ground().moves()[answer.chooser];
      for (const std::uint32_t move : answer.best) {
        known.best[answer.chooser].push_back(
            {game.move(lanes.ground().terms().term(moves[move].term)),
             1.0 / static_cast<double>(answer.best.size())});
      }
      std::ranges::sort(known.best[answer.chooser], {},
                        [](const GoodMove& good) { return good.move.term(); });
    }
    JointMove joint;
    for (const auto& moves : known.best) {
      if (!moves.empty()) joint.add(moves.front().move);
    }
    result->known_.emplace_back(position, std::move(known));
    if (answer.best.empty()) break;
    const auto next = game.next(position, joint);
    if (!next) break;
    result->line_.joints.push_back(std::move(joint));
    result->line_.positions.push_back(*next);
  }
  return std::shared_ptr<const SearchedGame>(result);
}

}  // namespace orchard
