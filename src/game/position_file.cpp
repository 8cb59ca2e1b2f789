// Positions written by hand or saved from play.
#include <fmt/core.h>

#include "game/core.hpp"
#include "game/known_terms.hpp"
#include "game/position_form.hpp"
#include "syntax/expand.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

std::optional<NamedPosition> read_form(const Game& game, const Tree& tree, NodeIndex form,
                                       const DrawingReader& reader, Diagnostics& diagnostics) {
  if (!tree.is_list(form) || tree.head(form) != "position") {
    syntax::report(tree, form, "not-a-position", "expected a position",
                   "write (position FLUENT…) or (position \"name\" FLUENT…)", diagnostics);
    return std::nullopt;
  }
  const std::size_t errors = diagnostics.errors();
  const PositionForm read = read_position_form(game, tree, form, true, diagnostics);
  if (diagnostics.errors() > errors) return std::nullopt;
  auto position = position_of(game, tree, read, reader);
  if (!position) {
    diagnostics.append(position.diagnostics());
    return std::nullopt;
  }
  return NamedPosition{read.name, *position};
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

PositionForm read_position_form(const Game& game, const Tree& tree, NodeIndex form,
                                bool check_fluents, Diagnostics& diagnostics) {
  PositionForm result;
  const std::vector<NodeIndex> parts = tree.children(form);
  for (std::size_t i = 1; i < parts.size(); ++i) {
    if (i == 1 && tree[parts[i]].kind == syntax::Node::Kind::string) {
      result.name = std::string(tree[parts[i]].text);
      continue;
    }
    const std::vector<NodeIndex> inner = tree.children(parts[i]);
    if (tree.head(parts[i]) == "drawn" && inner.size() == 2 &&
        tree[inner[1]].kind == syntax::Node::Kind::string) {
      if (result.drawing) {
        syntax::report(tree, parts[i], "bad-drawing", "a position has one drawing", "leave one out",
                       diagnostics);
      }
      result.drawing = std::string(tree[inner[1]].text);
      result.drawing_node = inner[1];
      continue;
    }
    const auto fluent = syntax::term_of(tree, parts[i]);
    if (!fluent) {
      diagnostics.append(fluent.diagnostics());
      continue;
    }
    // Asked one by one, so that a fault is reported at its own place.
    const GameCore& core = *GameAccess::core(game);
    auto fault = check_fluents ? core.fault_in_fluent(*fluent) : std::nullopt;
    if (const auto impossible =
            check_fluents && !fault ? core.known_terms().fault_in_fluent(*fluent) : std::nullopt) {
      fault = plain_error("unknown-fluent", impossible->message, impossible->remedy);
    }
    if (fault) {
      fault->place = tree.place(parts[i]);
      diagnostics.add(std::move(*fault));
      continue;
    }
    result.fluents.push_back(*fluent);
  }
  return result;
}

Result<Position> position_of(const Game& game, const Tree& tree, const PositionForm& form,
                             const DrawingReader& reader) {
  if (!form.drawing) return game.position(form.fluents);
  if (!reader) {
    return syntax::error_at(tree, form.drawing_node, "bad-drawing", "drawings are not read here",
                            "write the fluents out");
  }
  auto position = reader(*form.drawing, form.fluents);
  if (position) return position;
  Diagnostics diagnostics;
  const Place string = tree.place(form.drawing_node);
  for (Diagnostic fault : position.diagnostics()) {
    fault.place.file = string.file;
    if (fault.place.line == 0) {
      fault.place = string;
    } else {
      // The drawing begins behind the quotation mark.
      if (fault.place.line == 1) fault.place.column += string.column;
      fault.place.line += string.line - 1;
    }
    diagnostics.add(std::move(fault));
  }
  return diagnostics;
}

namespace {

Result<std::vector<NamedPosition>> positions_of(const Game& game, const syntax::Source& source,
                                                const DrawingReader& reader) {
  Diagnostics diagnostics;
  // Behind the rules, so that their sizes stand in it: (#for ?c 1 columns (position …)).
  const Tree& rules = GameAccess::core(game)->program().description().tree();
  const Tree tree = syntax::read_further(rules, {source}, {}, diagnostics, true);
  if (diagnostics.has_errors()) return diagnostics;
  std::vector<NamedPosition> positions;
  const std::vector<NodeIndex>& forms = tree.forms();
  for (std::size_t at = rules.forms().size(); at < forms.size(); ++at) {
    const NodeIndex form = forms[at];
    if (auto position = read_form(game, tree, form, reader, diagnostics)) {
      positions.push_back(std::move(*position));
    }
  }
  if (diagnostics.has_errors()) return diagnostics;
  if (positions.empty()) {
    return at_file(source.name(), "no-position", "there is no position in this file",
                   "write (position FLUENT…)");
  }
  return positions;
}

}  // namespace

Result<std::vector<NamedPosition>> read_positions(const Game& game, const std::string& path,
                                                  const DrawingReader& reader) {
  const auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return positions_of(game, *source, reader);
}

Result<std::vector<NamedPosition>> positions_from_text(const Game& game, std::string text,
                                                       const DrawingReader& reader) {
  return positions_of(game, syntax::Source("positions", std::move(text)), reader);
}

Result<Position> read_position(const Game& game, const std::string& path, const std::string& name,
                               const DrawingReader& reader) {
  const auto positions = read_positions(game, path, reader);
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
