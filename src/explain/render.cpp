// Explanations as text, and as graphs for drawing programs.
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <optional>

#include "orchard/explain.hpp"

namespace orchard {
namespace {

using Kind = Reason::Kind;

std::string at(const Place& place) {
  if (place.line == 0) return {};
  const std::size_t slash = place.file.rfind('/');
  return fmt::format(
      "{}:{}", slash == std::string::npos ? place.file : place.file.substr(slash + 1), place.line);
}

std::string values_of(const Reason& reason) {
  std::string text;
  for (const auto& [name, value] : reason.bindings) {
    text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", name, value.to_string());
  }
  return text;
}

std::string attempts_of(const Reason& reason) {
  const std::size_t all = reason.conditions.size() + reason.left_out;
  if (all == 1) return "does not hold; one rule could give it";
  if (reason.left_out == 0) return fmt::format("does not hold; {} rules could give it", all);
  return fmt::format("does not hold; {} rules could give it, nearest:", all);
}

// What stands behind the literal in a line of the tree.
std::string remark(const Reason& reason) {
  const std::string place = at(reason.place);
  const bool atom_holds = reason.holds != reason.negated;
  switch (reason.kind) {
    case Kind::rule:
    case Kind::attempt: {
      const std::string values = values_of(reason);
      return values.empty() ? place : place + "   " + values;
    }
    case Kind::stated:
      return fmt::format("{}   stated", place);
    case Kind::always:
      return "always so";
    case Kind::fluent:
      return atom_holds ? "in the position" : "not in the position";
    case Kind::move:
      return atom_holds ? "is made" : "is not made";
    case Kind::comparison:
      return reason.holds ? "so" : "not so";
    case Kind::absent:
      return "nothing gives it";
    case Kind::repeated:
      return "as above";
    case Kind::attempts:
      return attempts_of(reason);
    case Kind::no_rule:
      return "does not hold; no rule could give it";
    case Kind::since:
      if (reason.joint.empty()) {
        return atom_holds ? "since the start" : "not at the start";
      }
      return fmt::format("{} ply {}, by {}", atom_holds ? "since" : "not after", reason.ply,
                         reason.joint);
    case Kind::open:
      return atom_holds ? "holds" : "does not hold";
  }
  return {};
}

std::string line_of(const Reason& reason, bool unicode) {
  const std::string_view sign = reason.kind == Kind::attempt ? ""
                                : reason.holds               ? (unicode ? "✓ " : "+ ")
                                                             : (unicode ? "✗ " : "- ");
  const std::string what = reason.kind == Kind::attempt
                               ? fmt::format("{} if all of these held", reason.atom.to_string())
                               : reason.literal();
  return fmt::format("{}{}   {}", sign, what, remark(reason));
}

std::string quoted(const std::string& text) {
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') result += '\\';
    result += c;
  }
  return result + "\"";
}

// A count that `#count` made: instead of its steps, one after the other, which of the conditions
// hold. None if the reason is something else.
struct Counted {
  std::size_t all = 0;
  std::vector<std::size_t> holding;  // reasons, in the order of the conditions
};
std::optional<Counted> counted(const std::vector<Reason>& reasons, const Reason& reason) {
  constexpr std::string_view ending = "_so_far";
  if (reason.kind != Kind::rule || reason.conditions.size() != 1) return std::nullopt;
  const std::string name = std::string(reason.atom.name()) + std::string(ending);
  const auto is_step = [&](const Reason& one) {
    return one.kind == Kind::rule && !one.negated && one.atom.name() == name;
  };
  const Reason* step = &reasons[reason.conditions.front()];
  if (!is_step(*step)) return std::nullopt;
  Counted result;
  while (step->atom.arguments().front().number() != 0) {
    const Reason* before = nullptr;
    for (const std::size_t condition : step->conditions) {
      if (is_step(reasons[condition])) {
        before = &reasons[condition];
      } else if (!reasons[condition].negated) {
        result.holding.push_back(condition);
      }
    }
    if (before == nullptr || step->conditions.size() != 2) return std::nullopt;
    ++result.all;
    step = before;
  }
  std::ranges::reverse(result.holding);
  return result;
}

}  // namespace

std::string Explanation::text(bool unicode) const {
  struct Frame {
    std::size_t reason;
    std::string indent;  // of its own line
    std::string below;   // of the lines below
  };
  std::string text;
  if (reasons.empty()) return text;
  std::vector<Frame> stack{{0, "", ""}};
  while (!stack.empty()) {
    const Frame frame = std::move(stack.back());
    stack.pop_back();
    const Reason& reason = reasons[frame.reason];
    const auto count = counted(reasons, reason);
    const std::vector<std::size_t>& conditions = count ? count->holding : reason.conditions;
    text += frame.indent + line_of(reason, unicode);
    if (count) text += fmt::format("   {} of {} hold", conditions.size(), count->all);
    text += "\n";
    for (std::size_t i = conditions.size(); i-- > 0;) {
      const bool last = i + 1 == conditions.size();
      const std::string_view branch = unicode ? (last ? "└─ " : "├─ ") : (last ? "`- " : "|- ");
      const std::string_view trunk = last ? "   " : unicode ? "│  " : "|  ";
      stack.push_back(
          {conditions[i], frame.below + std::string(branch), frame.below + std::string(trunk)});
    }
  }
  return text;
}

std::string Explanation::in_one_line() const {
  if (reasons.empty()) return {};
  std::size_t at_reason = 0;
  const Reason* reason = &reasons[0];
  if (reason->kind == Kind::since) reason = &reasons[at_reason = reason->conditions.front()];
  if (reason->kind == Kind::no_rule) {
    return fmt::format("no rule could ever give {}", reason->atom.to_string());
  }
  if (reason->kind != Kind::attempts) {
    const std::string place = at(reason->place);
    return place.empty() ? reason->literal() : fmt::format("{} by {}", reason->literal(), place);
  }
  const Reason& nearest = reasons[reason->conditions.front()];
  std::string missing;
  Place place = nearest.place;
  std::size_t more = 0;
  for (const std::size_t condition : nearest.conditions) {
    if (reasons[condition].holds) continue;
    if (missing.empty()) {
      missing = reasons[condition].literal();
      place = reasons[condition].place;
    } else {
      ++more;
    }
  }
  if (missing.empty()) return fmt::format("{} does not hold", reason->atom.to_string());
  return fmt::format("it would need {}{} ({})", missing,
                     more == 0 ? std::string() : fmt::format(" and {} more", more), at(place));
}

std::string Explanation::dot() const {
  std::string text =
      "digraph why {\n"
      "  graph [rankdir=TB];\n"
      "  node [shape=box, style=\"rounded\", fontname=\"DejaVu Sans\", fontsize=11];\n";
  for (std::size_t i = 0; i < reasons.size(); ++i) {
    const Reason& reason = reasons[i];
    const std::string label = fmt::format(
        "{}\n{}", reason.kind == Kind::attempt ? reason.atom.to_string() + " if" : reason.literal(),
        remark(reason));
    std::string escaped;
    for (const char c : quoted(label))
      escaped += c == '\n' ? std::string("\\n") : std::string(1, c);
    text += fmt::format("  n{} [label={}{}];\n", i, escaped,
                        reason.holds ? "" : ", style=\"rounded,dashed\"");
  }
  for (std::size_t i = 0; i < reasons.size(); ++i) {
    for (const std::size_t below : reasons[i].conditions) {
      text += fmt::format("  n{} -> n{};\n", i, below);
    }
  }
  return text + "}\n";
}

}  // namespace orchard
