#include "orchard/learnt_rows.hpp"

#include <algorithm>

#include "explore/symmetry/likeness.hpp"
#include "game/lane_game.hpp"

namespace orchard {
namespace {

// Null if the game has no renamings.
std::shared_ptr<const explore::Likeness> likeness_of(const Game& game, bool wanted) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (!wanted || lanes == nullptr) return nullptr;
  using Shared = std::shared_ptr<const explore::Likeness>;
  const Shared& likeness =
      lanes->once<Shared>([&] { return std::make_shared<const explore::Likeness>(game); });
  return likeness->renamings() > 0 ? likeness : nullptr;
}

}  // namespace

template <class Number>
LearntRows<Number>::LearntRows(const Game& game, Role role, Number initial, bool alike)
    : game_(game), role_(std::move(role)), initial_(initial), likeness_(likeness_of(game, alike)) {}

template <class Number>
typename LearntRows<Number>::Kept LearntRows<Number>::as_kept(
    const Position& position, const std::vector<Move>& moves) const {
  if (likeness_ == nullptr) return {position, moves};
  auto alike = likeness_->standing_for(game_, position, role_, moves);
  return {std::move(alike.position), std::move(alike.moves)};
}

template <class Number>
typename LearntRows<Number>::Row& LearntRows<Number>::row(const Kept& kept) {
  const auto [known, is_new] =
      rows_.try_emplace(kept.position.key(), std::pair(kept.position, Row{}));
  Row& row = known->second.second;
  if (is_new) {
    for (const Move& move : kept.moves) row[move.to_string()] = initial_;
  }
  return row;
}

template <class Number>
typename LearntRows<Number>::Row* LearntRows<Number>::find(const Position& position) {
  const auto known = rows_.find(position.key());
  return known == rows_.end() ? nullptr : &known->second.second;
}

template <class Number>
Number LearntRows<Number>::number(const Position& position, const Move& move,
                                  Number unknown) const {
  const Kept kept = as_kept(position, {move});
  const auto known = rows_.find(kept.position.key());
  if (known == rows_.end()) return initial_;
  const auto found = known->second.second.find(kept.moves.front().to_string());
  return found == known->second.second.end() ? unknown : found->second;
}

template <class Number>
std::vector<typename LearntRows<Number>::Entry> LearntRows<Number>::entries() const {
  std::vector<std::pair<std::vector<Term>, const Entry*>> ordered;
  for (const auto& [key, entry] : rows_) ordered.emplace_back(entry.first.fluents(), &entry);
  std::ranges::sort(ordered, {}, &std::pair<std::vector<Term>, const Entry*>::first);
  std::vector<Entry> result;
  for (const auto& [fluents, entry] : ordered) result.push_back(*entry);
  return result;
}

template <class Number>
void LearntRows<Number>::put(const Position& position, Row row) {
  rows_.insert_or_assign(position.key(), std::pair(position, std::move(row)));
}

template <class Number>
void LearntRows<Number>::merge(const LearntRows& other,
                               const std::function<Number(Number, Number)>& merged) {
  for (const auto& [key, entry] : other.rows_) {
    const auto [known, is_new] = rows_.try_emplace(key, entry);
    if (is_new) continue;
    for (const auto& [move, number] : entry.second) {
      const auto [own, is_new_move] = known->second.second.try_emplace(move, number);
      if (!is_new_move) own->second = merged(own->second, number);
    }
  }
}

template class LearntRows<std::int64_t>;
template class LearntRows<double>;

}  // namespace orchard
