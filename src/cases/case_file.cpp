#include "cases/case_file.hpp"

#include <fmt/core.h>

namespace orchard::review {

using syntax::NodeIndex;
using syntax::Tree;

namespace {

class CaseReader {
 public:
  CaseReader(const Game& game, const Tree& tree, Diagnostics& diagnostics)
      : game_(game), tree_(tree), diagnostics_(diagnostics) {}

  std::optional<CaseForm> read(NodeIndex form);

 private:
  bool error(NodeIndex node, std::string message, std::string remedy) {
    syntax::report(tree_, node, "bad-case", std::move(message), std::move(remedy), diagnostics_);
    return false;
  }
  std::string text(NodeIndex node) const {
    return tree_.canonical_text(node, node + tree_[node].size);
  }
  std::optional<Term> term(NodeIndex node);
  std::optional<Role> role(NodeIndex node);
  void read_part(NodeIndex part, CaseForm& result);
  void read_start(NodeIndex part, CaseForm& result);
  void read_literal(NodeIndex node, CaseForm& result);
  void read_role_moves(NodeIndex part, Expectation::Kind kind, CaseForm& result);
  Expectation begun(NodeIndex part, Expectation::Kind kind, const CaseForm& result);
  void read_number(NodeIndex part, Expectation::Kind kind, CaseForm& result);

  const Game& game_;
  const Tree& tree_;
  Diagnostics& diagnostics_;
};

std::optional<Term> CaseReader::term(NodeIndex node) {
  auto result = syntax::term_of(tree_, node);
  if (result) return *result;
  diagnostics_.append(result.diagnostics());
  return std::nullopt;
}

std::optional<Role> CaseReader::role(NodeIndex node) {
  const auto found = game_.role(text(node));
  if (found) return found;
  std::string names;
  for (const Role& role : game_.roles()) names += (names.empty() ? "" : ", ") + role.name();
  error(node, fmt::format("{} is not a role", text(node)), "the roles are " + names);
  return std::nullopt;
}

std::optional<CaseForm> CaseReader::read(NodeIndex form) {
  const std::vector<NodeIndex> parts = tree_.children(form);
  if (tree_.head(form) != "case" || parts.size() < 3 ||
      tree_[parts[1]].kind != syntax::Node::Kind::string) {
    error(form, "expected a case", "write (case \"name\" (start) (expect …))");
    return std::nullopt;
  }
  CaseForm result;
  result.name = std::string(tree_[parts[1]].text);
  result.place = tree_.place(form);
  const std::size_t errors = diagnostics_.errors();
  for (std::size_t i = 2; i < parts.size(); ++i) read_part(parts[i], result);
  if (result.expectations.empty() && errors == diagnostics_.errors()) {
    error(form, "this case expects nothing", "add (expect …)");
  }
  return errors == diagnostics_.errors() ? std::optional(std::move(result)) : std::nullopt;
}

void CaseReader::read_part(NodeIndex part, CaseForm& result) {
  const std::string_view head = tree_.head(part);
  std::vector<NodeIndex> rest = tree_.children(part);
  if (!rest.empty()) rest.erase(rest.begin());
  if (head == "start" || head == "position") {
    read_start(part, result);
  } else if (head == "moves") {
    for (const NodeIndex ply : rest) {
      result.plies.push_back(read_ply(game_, tree_, ply, "bad-case", diagnostics_));
    }
  } else if (head == "expect") {
    for (const NodeIndex literal : rest) read_literal(literal, result);
  } else if (head == "legal-moves") {
    read_role_moves(part, Expectation::Kind::legal_moves, result);
  } else if (head == "refused") {
    read_role_moves(part, Expectation::Kind::refused, result);
  } else if (head == "best") {
    read_role_moves(part, Expectation::Kind::best, result);
  } else if (head == "value") {
    read_number(part, Expectation::Kind::value, result);
  } else if (head == "wins-within") {
    read_number(part, Expectation::Kind::wins_within, result);
  } else {
    error(part, "this is not a part of a case",
          "the parts are start, position, moves, expect, legal-moves, refused, value, best, "
          "wins-within");
  }
}

void CaseReader::read_start(NodeIndex part, CaseForm& result) {
  if (!result.expectations.empty() || !result.plies.empty() || result.start) {
    error(part, "a case has one start, and it comes first", "move it up, or make a second case");
    return;
  }
  if (tree_.head(part) == "start") return;
  result.start = read_position_form(game_, tree_, part, false, diagnostics_);
}

void CaseReader::read_literal(NodeIndex node, CaseForm& result) {
  Expectation expectation;
  expectation.place = tree_.place(node);
  expectation.text = text(node);
  NodeIndex atom = node;
  while (tree_.is_list(atom) && tree_.head(atom) == "not" && tree_[atom].children == 2) {
    expectation.negated = !expectation.negated;
    atom += 2;
  }
  auto read = term(atom);
  if (!read) return;
  expectation.atom = std::move(*read);
  expectation.after = result.plies.size();
  result.expectations.push_back(std::move(expectation));
}

// An expectation that speaks of a role, its second word.
Expectation CaseReader::begun(NodeIndex part, Expectation::Kind kind, const CaseForm& result) {
  Expectation expectation;
  expectation.kind = kind;
  expectation.place = tree_.place(part);
  expectation.text = text(part);
  expectation.role = role(tree_.children(part)[1]);
  expectation.after = result.plies.size();
  return expectation;
}

void CaseReader::read_role_moves(NodeIndex part, Expectation::Kind kind, CaseForm& result) {
  const std::vector<NodeIndex> parts = tree_.children(part);
  const bool refused = kind == Expectation::Kind::refused;
  if (parts.size() < 2 || (refused && parts.size() != 3)) {
    error(part, "a role is missing, or its move",
          refused                           ? "write (refused ROLE MOVE)"
          : kind == Expectation::Kind::best ? "write (best ROLE MOVE…)"
                                            : "write (legal-moves ROLE MOVE…)");
    return;
  }
  Expectation expectation = begun(part, kind, result);
  for (std::size_t i = 2; i < parts.size(); ++i) {
    if (auto move = term(parts[i])) expectation.moves.push_back(std::move(*move));
  }
  result.expectations.push_back(std::move(expectation));
}

void CaseReader::read_number(NodeIndex part, Expectation::Kind kind, CaseForm& result) {
  const std::vector<NodeIndex> parts = tree_.children(part);
  const auto number = parts.size() == 3 ? term(parts[2]) : std::nullopt;
  if (!number || !number->number()) {
    error(part, "a role is missing, or a whole number",
          kind == Expectation::Kind::value ? "write (value ROLE NUMBER)"
                                           : "write (wins-within ROLE PLIES)");
    return;
  }
  Expectation expectation = begun(part, kind, result);
  expectation.number = *number->number();
  result.expectations.push_back(std::move(expectation));
}

}  // namespace

std::vector<CaseForm> read_case_file(const Game& game, const Tree& tree, Diagnostics& diagnostics) {
  std::vector<CaseForm> cases;
  CaseReader reader(game, tree, diagnostics);
  for (const NodeIndex form : tree.forms()) {
    if (auto read = reader.read(form)) cases.push_back(std::move(*read));
  }
  return cases;
}

}  // namespace orchard::review
