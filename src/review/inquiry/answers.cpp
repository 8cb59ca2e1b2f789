#include <fmt/core.h>

#include <algorithm>

#include "base/counted.hpp"
#include "base/cut_short.hpp"
#include "review/inquiry/inquiry.hpp"

namespace orchard::review {

std::string plies_text(std::size_t count) {
  return counted(count, "ply", "plies");
}

Answer left_open(std::string id, const Interrupted& interrupted) {
  return {std::move(id),
          Verdict::unknown,
          {fmt::format("not looked at: {}", why_cut_short(interrupted.ending))}};
}

std::string joined(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i) {
    text += i == 0 ? "" : i + 1 == names.size() ? " and " : ", ";
    text += names[i];
  }
  return text;
}

std::string joined_roles(const Exploration& exploration, const std::vector<std::size_t>& roles) {
  std::vector<std::string> names;
  for (const std::size_t role : roles) names.push_back(exploration.game().roles()[role].name());
  return joined(names);
}

Answer failure(const Findings& findings, std::string id, const Exploration::Sighting& sighting,
               Evidence evidence) {
  Answer answer{std::move(id), Verdict::fails, std::move(evidence)};
  answer.line = findings.exploration().line_to(*sighting.first);
  const bool shortest = Exploration::is_shortest(*sighting.first);
  const std::size_t plies = answer.line->joints.size();
  answer.line_title = plies == 0 ? "at the start"
                                 : fmt::format("after {}{}", plies_text(plies),
                                               shortest ? ", the shortest line" : "");
  return answer;
}

Answer nowhere(Findings& findings, std::string id, std::string what,
               const std::vector<Watched>& watched) {
  const Exploration& exploration = findings.exploration();
  Answer answer{std::move(id), Verdict::holds, {std::move(what)}};
  // Without a watch it was looked for in joint moves.
  const bool in_steps = watched.empty();
  if (in_steps ? exploration.complete() : exploration.looked_at_all()) {
    answer.evidence.reach = exploration.reach();
    return answer;
  }
  if (!in_steps && std::ranges::all_of(
                       watched, [&](const Watched& one) { return findings.never(one.number); })) {
    answer.evidence.reach = {Reach::Kind::proved};
    return answer;
  }
  answer.verdict = Verdict::unknown;
  answer.evidence.reach = in_steps ? exploration.reach_of_steps() : exploration.reach();
  return answer;
}

const Watched* soonest(const Findings& findings, const std::vector<Watched>& watched) {
  // Positions explored are numbered breadth first and come before those beyond them.
  const auto order = [&exploration = findings.exploration()](const Exploration::Spot& spot) {
    if (const auto* position = std::get_if<StateSpace::Number>(&spot)) {
      return std::pair<std::uint64_t, std::uint64_t>(0, *position);
    }
    return std::pair<std::uint64_t, std::uint64_t>(1, exploration.depth_of(spot));
  };
  const Watched* result = nullptr;
  for (const Watched& one : watched) {
    const auto& first = findings.sighting(one.number).first;
    if (!first) continue;
    if (result == nullptr || order(*first) < order(*findings.sighting(result->number).first)) {
      result = &one;
    }
  }
  return result;
}

}  // namespace orchard::review
