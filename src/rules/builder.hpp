// From forms to relations, rules and clauses. Inner part of Description::build.
#pragma once

#include "rules/description.hpp"

namespace orchard::rules {

class DescriptionBuilder {
 public:
  DescriptionBuilder(syntax::Tree tree, Diagnostics& diagnostics);

  // All forms read; what is wrong in shape is reported and left out.
  std::shared_ptr<Description> run();

 private:
  struct Condition {  // a body condition still to be read, and whether it stands negated
    syntax::NodeIndex node;
    bool negated;
  };
  struct Alternative {
    std::vector<Condition> pending;  // next one last
    std::vector<Literal> literals;
  };

  void read_form(syntax::NodeIndex form);
  void begin_rule(syntax::NodeIndex node);
  void read_rule(syntax::NodeIndex form);
  void read_bare_symbol(syntax::NodeIndex form);
  bool read_body(std::vector<Condition> conditions, std::vector<std::vector<Literal>>& bodies);
  bool expand(Condition condition, Alternative& alternative, std::vector<Alternative>& others);
  bool read_connective(Condition condition, std::string_view head, Alternative& alternative,
                       std::vector<Alternative>& others);
  std::optional<Literal> read_comparison(Condition condition);
  std::optional<Atom> read_atom(syntax::NodeIndex node, bool in_head);
  bool check_keyword(syntax::NodeIndex node, std::string_view name, std::uint32_t arity,
                     bool in_head);
  bool read_pattern(syntax::NodeIndex node, Pattern& pattern);
  std::uint32_t variable(syntax::NodeIndex node);
  RelationId relation(std::string_view name, std::uint32_t arity, syntax::NodeIndex node);
  void add_clause(Atom head, std::vector<Literal> body);
  void add_role(const Atom& head);
  void resolve_bare_symbols();
  bool error(syntax::NodeIndex node, std::string code, std::string message, Remedy remedy);

  Diagnostics& diagnostics_;
  std::shared_ptr<Description> result_;
  const syntax::Tree& tree_;
  std::vector<syntax::NodeIndex> bare_symbols_;  // top-level forms without parentheses
  absl::flat_hash_map<std::string_view, std::uint32_t> variables_;  // of the rule being read
  std::size_t copied_ = 0;  // conditions copied while expanding that rule
};

}  // namespace orchard::rules
