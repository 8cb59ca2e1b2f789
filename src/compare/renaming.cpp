// What the second of two games calls things: read, and applied to terms.
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "orchard/compare.hpp"
#include "syntax/matching.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

class RenamingReader {
 public:
  RenamingReader(const Tree& tree, Diagnostics& diagnostics)
      : tree_(tree), diagnostics_(diagnostics) {}

  Renaming read() {
    for (const NodeIndex form : tree_.forms()) {
      const std::vector<NodeIndex> parts = tree_.children(form);
      if (tree_.head(form) == "name" && parts.size() == 3 && tree_.is_symbol(parts[1]) &&
          tree_.is_symbol(parts[2])) {
        read_name(form, std::string(tree_[parts[1]].text), std::string(tree_[parts[2]].text));
      } else if (tree_.head(form) == "move" && parts.size() == 3) {
        read_move(form, parts[1], parts[2]);
      } else {
        error(form, "this says nothing of what things are called",
              "write (name FIRST SECOND), or (move (tie ?row ?column) (bind ?column ?row))");
      }
    }
    return std::move(result_);
  }

 private:
  void error(NodeIndex node, std::string message, std::string remedy) {
    syntax::report(tree_, node, "bad-renaming", std::move(message), std::move(remedy),
                   diagnostics_);
  }

  void read_name(NodeIndex form, std::string of_first, std::string of_second) {
    if (!of_first_.insert(of_first).second || !of_second_.insert(of_second).second) {
      error(form, fmt::format("{} or {} has a name already", of_first, of_second),
            "give each thing one name in either game");
      return;
    }
    result_.names.emplace_back(std::move(of_first), std::move(of_second));
  }

  void read_move(NodeIndex form, NodeIndex of_first, NodeIndex of_second) {
    auto first = syntax::term_of(tree_, of_first);
    auto second = syntax::term_of(tree_, of_second);
    if (!first || !second) {
      diagnostics_.append((first ? second : first).diagnostics());
      return;
    }
    if (first->is_variable() || second->is_variable()) {
      error(form, "a variable alone stands for no move", "write the name of the move");
      return;
    }
    if (variables_of(*first) != variables_of(*second)) {
      error(form, "a variable stands on one side only",
            "use the same variables on both sides: which move is which must be clear both ways");
      return;
    }
    result_.moves.emplace_back(*first, *second);
  }

  static std::set<std::string> variables_of(const Term& term) {
    std::set<std::string> names;
    for (const Term::Symbol& symbol : term.symbols()) {
      if (symbol.name.starts_with('?')) names.insert(symbol.name);
    }
    return names;
  }

  const Tree& tree_;
  Diagnostics& diagnostics_;
  Renaming result_;
  std::set<std::string> of_first_;
  std::set<std::string> of_second_;
};

Result<Renaming> read(const syntax::Source& source) {
  Diagnostics diagnostics;
  const Tree tree = syntax::read(source, {}, diagnostics);
  if (diagnostics.has_errors()) return diagnostics;
  Renaming renaming = RenamingReader(tree, diagnostics).read();
  if (diagnostics.has_errors()) return diagnostics;
  return renaming;
}

}  // namespace

Result<Renaming> Renaming::load(const std::string& path) {
  auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return read(*source);
}

Result<Renaming> Renaming::from_text(std::string text, std::string name) {
  return read(syntax::Source(std::move(name), std::move(text)));
}

std::string Renaming::name_of_second(const std::string& name) const {
  const auto known = std::ranges::find(names, name, &std::pair<std::string, std::string>::first);
  return known == names.end() ? name : known->second;
}

Term Renaming::term_of_second(const Term& term) const {
  std::vector<Term::Symbol> symbols = term.symbols();
  for (Term::Symbol& symbol : symbols) symbol.name = name_of_second(symbol.name);
  return Term::from_symbols(std::move(symbols));
}

Term Renaming::move_of_second(const Term& move) const {
  for (const auto& [of_first, of_second] : moves) {
    syntax::Bindings bound;
    if (!syntax::matches(of_first, move, bound)) continue;
    for (auto& [name, term] : bound) term = term_of_second(term);
    return syntax::filled_in(of_second, bound);
  }
  return term_of_second(move);
}

std::string Renaming::text() const {
  std::string text;
  for (const auto& [of_first, of_second] : names) {
    text += fmt::format("(name {} {})\n", of_first, of_second);
  }
  for (const auto& [of_first, of_second] : moves) {
    text += fmt::format("(move {} {})\n", of_first.to_string(), of_second.to_string());
  }
  return text;
}

Renaming Renaming::swapped() const {
  Renaming result;
  for (const auto& [of_first, of_second] : names) result.names.emplace_back(of_second, of_first);
  for (const auto& [of_first, of_second] : moves) result.moves.emplace_back(of_second, of_first);
  return result;
}

}  // namespace orchard
