// Positions written by hand or saved from play.
#include <fmt/core.h>

#include "game/core.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

std::optional<NamedPosition> read_form(const Game& game, const Tree& tree, NodeIndex form,
                                       Diagnostics& diagnostics) {
  if (!tree.is_list(form) || tree.head(form) != "position") {
    syntax::report(tree, form, "not-a-position", "expected a position",
                   "write (position FLUENT…) or (position \"name\" FLUENT…)", diagnostics);
    return std::nullopt;
  }
  std::string name;
  std::vector<Term> fluents;
  const std::vector<NodeIndex> parts = tree.children(form);
  const std::size_t errors = diagnostics.errors();
  for (std::size_t i = 1; i < parts.size(); ++i) {
    if (i == 1 && tree[parts[i]].kind == syntax::Node::Kind::string) {
      name = std::string(tree[parts[i]].text);
      continue;
    }
    const auto fluent = syntax::term_of(tree, parts[i]);
    if (!fluent) {
      diagnostics.append(fluent.diagnostics());
      continue;
    }
    // Asked one by one, so that a fault is reported at its own place.
    if (auto fault = GameAccess::core(game)->fault_in_fluent(*fluent)) {
      fault->place = tree.place(parts[i]);
      diagnostics.add(std::move(*fault));
      continue;
    }
    fluents.push_back(*fluent);
  }
  if (diagnostics.errors() > errors) return std::nullopt;
  auto position = game.position(fluents);
  if (!position) {
    diagnostics.append(position.diagnostics());
    return std::nullopt;
  }
  return NamedPosition{name, *position};
}

Diagnostic at_file(const std::string& path, std::string code, std::string message,
                   std::string remedy) {
  Diagnostic diagnostic = plain_error(std::move(code), std::move(message), std::move(remedy));
  diagnostic.place.file = path;
  return diagnostic;
}

std::string names_of(const std::vector<NamedPosition>& positions) {
  std::string text;
  for (const NamedPosition& next : positions) {
    if (!next.name.empty()) text += fmt::format("{}\"{}\"", text.empty() ? "" : ", ", next.name);
  }
  return text.empty() ? "none of them has a name" : "there are: " + text;
}

}  // namespace

Result<std::vector<NamedPosition>> read_positions(const Game& game, const std::string& path) {
  const auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  Diagnostics diagnostics;
  syntax::ReaderOptions options;
  options.strings = true;
  const Tree tree = syntax::read(*source, options, diagnostics);
  if (diagnostics.has_errors()) return diagnostics;
  std::vector<NamedPosition> positions;
  for (const NodeIndex form : tree.forms()) {
    if (auto position = read_form(game, tree, form, diagnostics)) {
      positions.push_back(std::move(*position));
    }
  }
  if (diagnostics.has_errors()) return diagnostics;
  if (positions.empty()) {
    return at_file(path, "no-position", "there is no position in this file",
                   "write (position FLUENT…)");
  }
  return positions;
}

Result<Position> read_position(const Game& game, const std::string& path, const std::string& name) {
  const auto positions = read_positions(game, path);
  if (!positions) return positions.diagnostics();
  if (name.empty() && positions->size() == 1) return positions->front().position;
  if (name.empty()) {
    return at_file(path, "which-position",
                   fmt::format("this file holds {} positions", positions->size()),
                   "add :NAME to the file; " + names_of(*positions));
  }
  for (const NamedPosition& next : *positions) {
    if (next.name == name) return next.position;
  }
  return at_file(path, "which-position", fmt::format("there is no position \"{}\"", name),
                 names_of(*positions));
}

}  // namespace orchard
