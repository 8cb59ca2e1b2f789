#include "protocol/message.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>

#include "base/utf8.hpp"
#include "syntax/directives.hpp"
#include "syntax/reader.hpp"
#include "syntax/tree.hpp"

namespace orchard::protocol {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

Diagnostic bad(std::string what) {
  return plain_error("bad-message", std::move(what),
                     "write a message of the match protocol, such as (info)");
}

Result<Tree> tree_of(std::string text, const MessageLimits& limits) {
  if (text.size() > limits.bytes) {
    return bad(
        fmt::format("the message has {} bytes; at most {} are read", text.size(), limits.bytes));
  }
  syntax::ReaderOptions options;
  options.limits.nesting = limits.nesting;
  options.limits.symbols = limits.symbols;
  Diagnostics faults;
  Tree tree = syntax::read(syntax::Source("message", std::move(text)), options, faults);
  if (!faults.empty()) return bad(faults.items().front().message);
  if (tree.forms().size() != 1) {
    return bad(fmt::format("one list was expected, not {}", tree.forms().size()));
  }
  return tree;
}

// Takes a message apart; the first thing that is wrong is kept.
class MessageReader {
 public:
  explicit MessageReader(const Tree& tree) : tree_(tree) {}

  Result<Message> read() {
    const NodeIndex form = tree_.forms().front();
    // Some hosts leave out the parentheses of a message of one word.
    if (tree_.is_symbol(form) && tree_[form].text == "info") return Message();
    if (!tree_.is_list(form)) return bad("a list was expected");
    parts_ = tree_.children(form);
    Message message;
    const std::string name(tree_.head(form));
    if (name == "info") {
      expect(name, 1, 1);
    } else if (name == "preview") {
      message.kind = Message::Kind::preview;
      if (expect(name, 3, 3)) {
        message.rules = rules_at(1);
        message.start_seconds = seconds_at(2);
      }
    } else if (name == "start") {
      message.kind = Message::Kind::start;
      if (expect(name, 6, 6)) {
        message.match = symbol_at(1);
        message.role = symbol_at(2);
        message.rules = rules_at(3);
        message.start_seconds = seconds_at(4);
        message.play_seconds = seconds_at(5);
      }
    } else if (name == "play" || name == "stop") {
      message.kind = name == "play" ? Message::Kind::play : Message::Kind::stop;
      if (expect(name, 3, 5)) read_moves(message);
    } else if (name == "abort") {
      message.kind = Message::Kind::abort;
      if (expect(name, 2, 2)) message.match = symbol_at(1);
    } else {
      return bad(name.empty() ? "the message begins with no word"
                              : fmt::format("there is no message {}", shortened(name)));
    }
    if (!fault_.empty()) return bad(fault_);
    return message;
  }

 private:
  static std::string shortened(std::string_view text) {
    constexpr std::size_t most = 40;
    return safe_for_terminal(std::string(text.substr(0, most)));
  }

  void fail(std::string what) {
    if (fault_.empty()) fault_ = std::move(what);
  }

  bool expect(const std::string& name, std::size_t least, std::size_t most) {
    const bool right = parts_.size() >= least && parts_.size() <= most &&
                       (name.empty() || parts_.size() != 4 || least == most);
    if (!right) fail(fmt::format("{} has {} parts", name, parts_.size()));
    return right;
  }

  // A list of one symbol is that symbol.
  std::string symbol_at(std::size_t at) {
    NodeIndex node = parts_[at];
    if (tree_.is_list(node) && tree_[node].children == 1) node = tree_.children(node).front();
    constexpr std::size_t longest = 200;
    if (!tree_.is_symbol(node) || tree_[node].text.size() > longest) {
      fail(fmt::format("part {} is not a name", at));
      return {};
    }
    return std::string(tree_[node].text);
  }

  double seconds_at(std::size_t at) {
    const std::string text = symbol_at(at);
    char* end = nullptr;
    const double value = std::strtod(text.c_str(), &end);
    constexpr double most = 1e6;
    if (text.empty() || *end != '\0' || !(value >= 0) || value > most) {
      fail(fmt::format("{} is not a number of seconds", shortened(text)));
      return 0;
    }
    return value;
  }

  // Directives are ours, not the language's: one of them would read files of this machine.
  std::string rules_at(std::size_t at) {
    const NodeIndex list = parts_[at];
    if (!tree_.is_list(list)) {
      fail("the rules are not a list");
      return {};
    }
    for (NodeIndex i = list; i < list + tree_[list].size; ++i) {
      if (syntax::find_directive(tree_[i].text) != nullptr) {
        fail(fmt::format("{} is no part of the language", shortened(tree_[i].text)));
        return {};
      }
    }
    std::string text;
    for (const NodeIndex rule : tree_.children(list)) {
      text += tree_.canonical_text(rule, rule + tree_[rule].size) + "\n";
    }
    if (text.empty()) fail("there are no rules");
    return text;
  }

  bool is_nil(NodeIndex node) const {
    return (tree_.is_symbol(node) && tree_[node].text == "nil") ||
           (tree_.is_list(node) && tree_[node].children == 0);
  }

  Term term_at(NodeIndex node) {
    auto term = syntax::term_of(tree_, node);
    if (!term || !term->is_ground()) {
      fail("a move or percept is not a term without variables");
      return Term::constant("nil");
    }
    return *term;
  }

  std::vector<Term> terms_at(std::size_t at) {
    std::vector<Term> terms;
    if (is_nil(parts_[at])) return terms;
    if (!tree_.is_list(parts_[at])) fail(fmt::format("part {} is not a list", at));
    for (const NodeIndex node : tree_.children(parts_[at])) terms.push_back(term_at(node));
    return terms;
  }

  void read_moves(Message& message) {
    message.match = symbol_at(1);
    if (parts_.size() == 3) {
      message.first = is_nil(parts_[2]);
      message.joint = terms_at(2);
      return;
    }
    const std::string turn = symbol_at(2);
    constexpr std::size_t longest = 9;
    if (turn.empty() || turn.size() > longest ||
        !std::ranges::all_of(turn, [](char c) { return c >= '0' && c <= '9'; })) {
      fail("the turn is not a number");
      return;
    }
    message.turn = std::strtoull(turn.c_str(), nullptr, 10);
    message.first = is_nil(parts_[3]) && *message.turn == 0;
    if (!message.first) message.own_move = term_at(parts_[3]);
    message.percepts = terms_at(4);
  }

  const Tree& tree_;
  std::vector<NodeIndex> parts_;
  std::string fault_;
};

std::string list_of(const std::vector<Term>& terms) {
  std::string text;
  for (const Term& term : terms) text += (text.empty() ? "" : " ") + term.to_string();
  return "(" + text + ")";
}

std::string all_told(const char* name, const std::string& match, const std::vector<Term>& joint) {
  return fmt::format("({} {} {})", name, match, joint.empty() ? "nil" : list_of(joint));
}

std::string some_told(const char* name, const std::string& match, std::uint64_t turn,
                      const std::optional<Term>& own_move, const std::vector<Term>& percepts) {
  if (!own_move) return fmt::format("({} {} {} nil nil)", name, match, turn);
  return fmt::format("({} {} {} {} {})", name, match, turn, own_move->to_string(),
                     list_of(percepts));
}

}  // namespace

Result<Message> read_message(std::string text, const MessageLimits& limits) {
  const auto tree = tree_of(std::move(text), limits);
  if (!tree) return tree.diagnostics();
  return MessageReader(*tree).read();
}

std::string info_message() {
  return "(info)";
}

std::string start_message(const std::string& match, const std::string& role,
                          const std::string& rules, double start_seconds, double play_seconds) {
  return fmt::format("(start {} {} ({}) {} {})", match, role, rules, start_seconds, play_seconds);
}

std::string play_message(const std::string& match, const std::vector<Term>& joint) {
  return all_told("play", match, joint);
}

std::string stop_message(const std::string& match, const std::vector<Term>& joint) {
  return all_told("stop", match, joint);
}

std::string play_message(const std::string& match, std::uint64_t turn,
                         const std::optional<Term>& own_move, const std::vector<Term>& percepts) {
  return some_told("play", match, turn, own_move, percepts);
}

std::string stop_message(const std::string& match, std::uint64_t turn,
                         const std::optional<Term>& own_move, const std::vector<Term>& percepts) {
  return some_told("stop", match, turn, own_move, percepts);
}

std::string abort_message(const std::string& match) {
  return fmt::format("(abort {})", match);
}

std::string symbol_of_reply(const std::string& reply) {
  const auto tree = tree_of(reply, {});
  if (!tree) return {};
  NodeIndex form = tree->forms().front();
  if (tree->is_list(form) && (*tree)[form].children == 1) form = tree->children(form).front();
  return tree->is_symbol(form) ? std::string((*tree)[form].text) : std::string();
}

Result<Term> move_of_reply(const std::string& reply, const MessageLimits& limits) {
  const auto tree = tree_of(reply, limits);
  if (!tree) return tree.diagnostics();
  auto term = syntax::term_of(*tree, tree->forms().front());
  if (!term || !term->is_ground()) return bad("the reply is not a move");
  return term;
}

}  // namespace orchard::protocol
