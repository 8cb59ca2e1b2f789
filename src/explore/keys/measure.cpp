#include "explore/keys/measure.hpp"

#include <map>

namespace orchard::explore {

MeasureFinder::MeasureFinder(const ground::GroundProgram& ground) {
  std::map<std::vector<std::uint32_t>, std::size_t> known;
  classes_of_.resize(ground.fluents().size());
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const auto& entry = ground.terms()[ground.fluents()[f].term];
    std::vector<std::vector<std::uint32_t>> names{
        {static_cast<std::uint32_t>(entry.symbol), entry.arity}};
    for (std::uint32_t place = 0; place < entry.arity; ++place) {
      names.push_back(
          {names[0][0], names[0][1], place, static_cast<std::uint32_t>(entry.arguments[place])});
    }
    for (std::vector<std::uint32_t>& name : names) {
      const auto [known_class, is_new] = known.try_emplace(std::move(name), classes_.size());
      if (is_new) classes_.emplace_back();
      classes_[known_class->second].fluents.push_back(f);
      classes_of_[f].push_back(known_class->second);
    }
  }
}

void MeasureFinder::observe(std::span<const std::uint64_t> row, std::uint64_t ply) {
  std::vector<std::int64_t> held(classes_.size(), 0);
  for (std::uint32_t f = 0; f < classes_of_.size(); ++f) {
    if ((row[f / 64] >> (f % 64) & 1) == 0) continue;
    for (const std::size_t c : classes_of_[f]) ++held[c];
  }
  const auto plies = static_cast<std::int64_t>(ply);
  for (std::size_t c = 0; c < classes_.size(); ++c) {
    Class& one = classes_[c];
    if (ply == 0) one.at_start = held[c];
    one.rises = one.rises && held[c] == one.at_start + plies;
    one.falls = one.falls && held[c] == one.at_start - plies;
  }
}

Measure MeasureFinder::measure() const {
  for (const Class& one : classes_) {
    if (one.rises || one.falls) return {one.fluents, one.at_start, one.rises ? 1 : -1};
  }
  return {};
}

}  // namespace orchard::explore
