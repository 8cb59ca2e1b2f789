#include "desk/request.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "report/json.hpp"

namespace orchard::desk {

Json error(const std::string& text) {
  return {{"error", text}};
}

std::string text_of(const Json& request, const char* name) {
  const auto found = request.find(name);
  return found != request.end() && found->is_string() ? found->get<std::string>() : std::string();
}

double number_of(const Json& request, const char* name, double otherwise, double most) {
  const auto found = request.find(name);
  if (found == request.end() || !found->is_number()) return otherwise;
  return std::clamp(found->get<double>(), 0.0, most);
}

bool is_set(const Json& request, const char* name) {
  const auto found = request.find(name);
  return found != request.end() && found->is_boolean() && found->get<bool>();
}

Sheet sheet_of(const Json& request) {
  Sheet sheet{text_of(request, "rules"), text_of(request, "drawing"), {}};
  const auto sizes = request.find("sizes");
  if (sizes == request.end() || !sizes->is_object()) return sheet;
  for (const auto& [name, value] : sizes->items()) {
    if (value.is_number_integer()) sheet.sizes[name] = value.get<std::int64_t>();
  }
  return sheet;
}

void add_words(const Term& term, std::vector<std::string>& words) {
  words.emplace_back(term.name());
  for (const Term& argument : term.arguments()) add_words(argument, words);
}

Json findings_json(const Diagnostics& diagnostics) {
  Json list = report::document_of(diagnostics);
  std::size_t at = 0;
  for (const Diagnostic& item : diagnostics) list[at++]["width"] = item.place.width;
  return list;
}

namespace {

std::optional<JointMove> joint_of(const Game& game, const Json& ply) {
  if (!ply.is_object()) return std::nullopt;
  JointMove joint;
  for (const Role& role : game.roles()) {
    const auto move = ply.find(role.name());
    if (move == ply.end() || !move->is_string()) return std::nullopt;
    const auto term = Term::parse(move->get<std::string>());
    if (!term) return std::nullopt;
    joint.add(game.move(*term));
  }
  return joint;
}

// Plays the line of a request as far as it goes.
Line played(const Game& game, const Json& request, std::string& broke) {
  Line line{{game.initial()}, {}};
  const auto plies = request.find("line");
  if (plies == request.end() || !plies->is_array()) return line;
  for (const Json& ply : *plies) {
    end_if_interrupted();
    const auto joint = joint_of(game, ply);
    if (!joint) {
      broke = fmt::format("ply {} is no move of each role", line.joints.size() + 1);
      return line;
    }
    auto next = game.next(line.last(), *joint);
    if (!next) {
      broke = fmt::format("ply {} cannot be played any more: {}", line.joints.size() + 1,
                          next.diagnostics().items().front().message);
      return line;
    }
    line.joints.push_back(*joint);
    line.positions.push_back(*next);
  }
  return line;
}

}  // namespace

std::optional<Asked> asked(Shelf& shelf, const Json& request) {
  auto reading = shelf.read(sheet_of(request));
  if (!reading->game) return std::nullopt;
  std::string broke;
  Line line = played(*reading->game, request, broke);
  return Asked{std::move(reading), std::move(line), std::move(broke)};
}

}  // namespace orchard::desk
