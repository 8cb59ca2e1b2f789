#include "picture/inferred/samples.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>

#include "game/random_line.hpp"

namespace orchard {
namespace {

constexpr std::uint64_t sample_seed = 1;
constexpr int sample_lines = 20;
constexpr int sample_positions = 400;
constexpr std::uint32_t most_declared = 200'000;  // more declared fluents are not looked at
constexpr std::size_t most_moves = 100'000;

void keep_once(std::vector<TermId>& ids) {
  std::ranges::sort(ids);
  ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
}

}  // namespace

Samples::Samples(const GameCore& core, const rules::Sorts& sorts) : core_(core) {
  try {
    play();
  } catch (const logic::LimitExceeded&) {
    // What was met until then has to do.
  }
  for (FluentName& name : fluents_) {
    if (name.declared.empty()) {
      for (const auto& position : name.together) {
        name.declared.insert(name.declared.end(), position.begin(), position.end());
      }
      keep_once(name.declared);
    }
    name.parts = common_parts(core_.terms(), sorts, rules::Sorts::Owner::fluent, name.declared);
  }
  for (MoveName& name : moves_) {
    keep_once(name.met);
    name.parts = common_parts(core_.terms(), sorts, rules::Sorts::Owner::move, name.met);
  }
}

void Samples::play() {
  const logic::Program& program = core_.program();
  GameCore::Lease evaluator(core_);
  add_position(program.initial());
  for (FluentName& name : fluents_) name.at_first = true;
  Random random(sample_seed);
  int positions = 0;
  std::size_t moves = 0;
  for (int line = 0; line < sample_lines && positions < sample_positions; ++line) {
    random_line(*evaluator, program.initial(), random, sample_positions,
                [&](const LinePosition& at) {
                  add_position(*at.fluents);
                  for (const auto& of_role : *at.legal) {
                    if (at.ending == LineEnding::terminal || moves > most_moves) break;
                    moves += of_role.size();
                    add_moves(of_role);
                  }
                  return ++positions < sample_positions;
                });
  }
  if (const auto base = program.description().find(rules::Keyword::base)) {
    evaluator->set_position({});
    const logic::Table& table = evaluator->reference().instances(*base);
    for (std::uint32_t row = 0; row < table.rows() && row < most_declared; ++row) {
      fluent_of(*table.row(row)).declared.push_back(*table.row(row));
    }
  }
}

FluentName& Samples::fluent_of(TermId fluent) {
  const auto& entry = core_.terms()[fluent];
  const auto [known, is_new] =
      fluent_index_.try_emplace({entry.symbol, entry.arity}, fluents_.size());
  if (is_new) fluents_.push_back({entry.symbol, entry.arity, {}, {}, false, {}});
  return fluents_[known->second];
}

void Samples::add_position(std::span<const TermId> fluents) {
  positions_.emplace_back(fluents.begin(), fluents.end());
  std::vector<std::vector<TermId>> by_name(fluents_.size());
  for (const TermId fluent : fluents) {
    const std::size_t index = static_cast<std::size_t>(&fluent_of(fluent) - fluents_.data());
    if (index >= by_name.size()) by_name.resize(index + 1);
    by_name[index].push_back(fluent);
  }
  for (std::size_t i = 0; i < by_name.size(); ++i) {
    if (!by_name[i].empty()) fluents_[i].together.push_back(std::move(by_name[i]));
  }
}

void Samples::add_moves(std::span<const TermId> moves) {
  for (const TermId move : moves) {
    const auto& entry = core_.terms()[move];
    const auto [known, is_new] =
        move_index_.try_emplace({entry.symbol, entry.arity}, moves_.size());
    if (is_new) moves_.push_back({entry.symbol, entry.arity, {}, {}});
    moves_[known->second].met.push_back(move);
  }
}

std::vector<TermId> Samples::values(const FluentName& of, const Part& part) const {
  absl::flat_hash_set<TermId> seen;
  for (const TermId fluent : of.declared) seen.insert(part_at(core_.terms(), fluent, part.path));
  return {seen.begin(), seen.end()};
}

}  // namespace orchard
