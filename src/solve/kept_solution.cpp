#include "solve/kept_solution.hpp"

#include <algorithm>
#include <map>
#include <numeric>

#include "base/saved_state.hpp"
#include "game/core.hpp"
#include "game/row_bits.hpp"

namespace orchard {

using explore::StateSpace;

namespace {

// A kept solution is of the rules, whatever position it begins at: that stands in it.
std::string belongs_to(const LaneGame& lanes) {
  return "solution of " + lanes.identity({});
}

}  // namespace

Diagnostics KeptSolution::write(const std::string& file, const StateSpace& space,
                                const solve_inner::SolvedValues& known, const Facts& facts) {
  const std::size_t roles = space.roles();
  std::vector<std::uint32_t> order(space.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::sort(order, [&](std::uint32_t a, std::uint32_t b) {
    return std::ranges::lexicographical_compare(space.row(a), space.row(b));
  });
  std::vector<std::uint64_t> rows;
  std::vector<std::uint16_t> worth;
  std::vector<std::uint32_t> plies;
  std::map<std::vector<double>, std::uint16_t> numbers;
  std::vector<double> values;
  for (const std::uint32_t p : order) {
    const auto row = space.row(p);
    rows.insert(rows.end(), row.begin(), row.end());
    plies.push_back(known.plies[p]);
    if (known.solved[p] == 0) {
      worth.push_back(none);
      continue;
    }
    const auto from = known.values.begin() + static_cast<std::ptrdiff_t>(p * roles);
    const std::vector<double> of_position(from, from + static_cast<std::ptrdiff_t>(roles));
    const auto [entry, fresh] =
        numbers.try_emplace(of_position, static_cast<std::uint16_t>(numbers.size()));
    if (fresh) values.insert(values.end(), of_position.begin(), of_position.end());
    if (numbers.size() >= none) {
      Diagnostics faults;
      faults.add(plain_error("cannot-write", "positions have too many different values to be kept",
                             "keep a smaller size of the game"));
      return faults;
    }
    worth.push_back(entry->second);
  }
  StateWriter writer(file, belongs_to(space.game()));
  const std::vector<std::uint8_t> said{facts.selfish, facts.secures, facts.mixes, facts.repeats};
  writer.put("facts", said);
  writer.put("first", space.row(0));
  writer.put("rows", rows);
  writer.put("worth", worth);
  writer.put("plies", plies);
  writer.put("values", values);
  return writer.finish();
}

Result<std::shared_ptr<const KeptSolution>> KeptSolution::read(const std::string& file,
                                                               const Game& game) {
  const GameCore& core = *GameAccess::core(game);
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr) return core.lanes_fault();
  auto reader = StateReader::open(file, belongs_to(*lanes));
  if (!reader) return reader.diagnostics();
  if (!*reader) {
    Diagnostics faults;
    faults.add(plain_error("cannot-read", "there is no file " + file,
                           "write one with orchard solve GAME --keep FILE"));
    return faults;
  }
  std::shared_ptr<KeptSolution> kept(new KeptSolution(game));
  const auto said = (*reader)->get<std::uint8_t>("facts");
  kept->words_ = lanes->words();
  kept->roles_ = game.roles().size();
  kept->rows_ = (*reader)->get<std::uint64_t>("rows");
  kept->worth_ = (*reader)->get<std::uint16_t>("worth");
  kept->plies_ = (*reader)->get<std::uint32_t>("plies");
  kept->values_ = (*reader)->get<double>("values");
  const auto first = (*reader)->get<std::uint64_t>("first");
  kept->tree_ = explore::GameTree::make(*lanes);
  if (said.size() != 4 || first.size() != kept->words_ || kept->worth_.empty() ||
      kept->rows_.size() != kept->worth_.size() * kept->words_ ||
      kept->plies_.size() != kept->worth_.size()) {
    Diagnostics faults;
    faults.add(plain_error("damaged-state", file + " is not a kept solution of this version",
                           "write it again with orchard solve GAME --keep FILE"));
    return faults;
  }
  kept->facts_ = {said[0] != 0, said[1] != 0, said[2] != 0, said[3] != 0};
  std::vector<std::uint32_t> numbers;
  set_bits(first.data(), 0, lanes->ground().fluents().size(), numbers);
  std::vector<rules::TermId> fluents;
  for (const std::uint32_t number : numbers) {
    fluents.push_back(lanes->ground().fluents()[number].term);
  }
  std::ranges::sort(fluents);
  const auto state = core.work_out(fluents);
  if (!state) return state.diagnostics();
  kept->first_ = GameAccess::position(*state);
  kept->line_ = best_line(game, *kept, kept->first_);
  return std::shared_ptr<const KeptSolution>(kept);
}

std::optional<std::uint64_t> KeptSolution::find(std::span<const std::uint64_t> row) const {
  std::uint64_t least = 0;
  std::uint64_t most = worth_.size();
  while (least < most) {
    const std::uint64_t middle = least + (most - least) / 2;
    const auto there = std::span(rows_).subspan(middle * words_, words_);
    if (std::ranges::lexicographical_compare(there, row)) {
      least = middle + 1;
    } else {
      most = middle;
    }
  }
  const bool found = least < worth_.size() &&
                     std::ranges::equal(std::span(rows_).subspan(least * words_, words_), row);
  return found ? std::optional(least) : std::nullopt;
}

std::optional<std::uint64_t> KeptSolution::find(const Position& position) const {
  const auto row = tree_->row_of(position);
  return row ? find(*row) : std::nullopt;
}

std::optional<double> KeptSolution::value(const Position& position, std::size_t role) const {
  const auto at = find(position);
  if (!at || worth_[*at] == none) return std::nullopt;
  return 100 * values_[worth_[*at] * roles_ + role];
}

std::optional<std::uint64_t> KeptSolution::plies(const Position& position) const {
  const auto at = find(position);
  if (!at || worth_[*at] == none) return std::nullopt;
  return plies_[*at];
}

std::vector<GoodMove> KeptSolution::best(const Position& position, std::size_t role) const {
  const auto row = tree_->row_of(position);
  const auto at = row ? find(*row) : std::nullopt;
  if (!at || worth_[*at] == none) return {};
  const std::lock_guard lock(mutex_);
  const explore::Node node = tree_->node(*row);
  if (node.over) return {};
  solve_inner::Followers followers;
  for (const auto& moves : node.legal) followers.choices.push_back(moves.size());
  for (const Role& of : game_.roles()) {
    if (of.is_chance()) followers.chance = of.index();
  }
  for (const explore::Row& next : tree_->children(*row, node).rows) {
    const auto there = find(next);
    const bool solved = there && worth_[*there] != none;
    followers.solved.push_back(solved ? 1 : 0);
    followers.plies.push_back(there ? plies_[*there] : 0);
    for (std::size_t r = 0; r < roles_; ++r) {
      followers.values.push_back(solved ? values_[worth_[*there] * roles_ + r] : 0);
    }
  }
  const auto play = facts_.secures ? std::optional(solve_inner::secured_play(followers))
                                   : solve_inner::best_play(followers, facts_.repeats);
  std::vector<GoodMove> result;
  if (!play) return result;
  const LaneGame& lanes = tree_->lanes();
  for (std::size_t i = 0; i < play->shares[role].size(); ++i) {
    if (play->shares[role][i] <= 0) continue;
    const auto move = lanes.ground().moves()[role][node.legal[role][i]].term;
    result.push_back({game_.move(lanes.ground().terms().term(move)), play->shares[role][i]});
  }
  std::ranges::sort(
      result, [](const GoodMove& a, const GoodMove& b) { return a.move.term() < b.move.term(); });
  return result;
}

Diagnostics KeptSolution::keep(const std::string& file) const {
  Diagnostics faults;
  faults.add(
      plain_error("nothing-to-keep", "this solution is kept already", "copy its file to " + file));
  return faults;
}

}  // namespace orchard
