#include <fmt/core.h>

#include <algorithm>
#include <optional>

#include "base/interruption.hpp"
#include "base/similar.hpp"
#include "syntax/counting.hpp"
#include "syntax/directives.hpp"
#include "syntax/expander.hpp"
#include "syntax/names.hpp"

namespace orchard::syntax {
namespace {

bool is_connective(std::string_view name) {
  return name == "<=" || name == "and" || name == "or" || name == "not";
}

}  // namespace

bool Expander::error(NodeIndex node, std::string code, std::string message, Remedy remedy) {
  report(*raw_, node, std::move(code), std::move(message), std::move(remedy), diagnostics_);
  return false;
}

bool Expander::wrong_shape(NodeIndex node, std::string_view name) {
  return error(node, "bad-directive", fmt::format("`{}` is not written like this", name),
               fmt::format("write {}", find_directive(name)->shape));
}

bool Expander::count_step(NodeIndex node) {
  if (++steps_ <= limits_.forms && out_.nodes_.size() <= most_nodes) return true;
  if (!stopped_) {
    error(node, "expands-too-far",
          fmt::format("the directives make more than {} forms", limits_.forms),
          "make the sizes smaller, or raise --forms");
  }
  stopped_ = true;
  return false;
}

void Expander::run(const Tree& raw, std::uint32_t file_origin) {
  const Tree* const raw_outside = std::exchange(raw_, &raw);
  const std::uint32_t file_outside = std::exchange(file_origin_, file_origin);
  const std::uint32_t origin_outside = std::exchange(origin_, file_origin);
  std::vector<Frame> frames_outside;
  std::swap(frames_, frames_outside);
  files_.enter(raw.source().name());
  out_.folded_.insert(out_.folded_.end(), raw.folded_.begin(), raw.folded_.end());

  Frame text;
  text.end = static_cast<NodeIndex>(raw.size());
  frames_.push_back(text);
  InterruptionPoint interruption;
  while (!frames_.empty() && !stopped_) {
    interruption.pass();
    if (frames_.back().at == frames_.back().end) {
      end_frame();
    } else {
      read_node();
    }
  }
  files_.leave();
  frames_ = std::move(frames_outside);
  origin_ = origin_outside;
  file_origin_ = file_outside;
  raw_ = raw_outside;
}

// The nodes of an expanded tree as they are; their texts live on with the copies of its sources.
void Expander::begin_with(const Tree& rules) {
  out_.origins_ = rules.origins_;
  out_.nodes_ = rules.nodes_;
  out_.forms_ = rules.forms_;
  out_.folded_ = rules.folded_;
  lets_ = rules.sizes_;
}

// A further text, with an origin of its own.
void Expander::add(const Tree& raw) {
  const auto origin = static_cast<std::uint32_t>(out_.origins_.size());
  out_.origins_.push_back({raw.source(), 0, 0, {}});
  run(raw, origin);
}

void Expander::end_frame() {
  Frame& frame = frames_.back();
  if (frame.loop && frame.value < frame.last) {
    ++frame.value;
    frame.at = frame.body;
    enter_round();
    return;
  }
  if (frame.loop) origin_ = frame.origin_outside;
  if (frame.list != no_node) {
    out_.nodes_[frame.list].size = static_cast<std::uint32_t>(out_.nodes_.size() - frame.list);
  }
  const Frame ended = frame;
  frames_.pop_back();
  if (ended.counts) write_count(ended.list, ended.directive);
}

// The form was written like any other, with its loops unrolled; its rules take its place.
void Expander::write_count(NodeIndex list, NodeIndex directive) {
  const std::vector<Node> form(out_.nodes_.begin() + list, out_.nodes_.end());
  out_.nodes_.resize(list);
  out_.forms_.pop_back();
  const CountRules count(form, [this](std::string text) -> std::string_view {
    out_.folded_.push_back(std::make_shared<const std::string>(std::move(text)));
    return *out_.folded_.back();
  });
  if (const auto fault = count.fault()) {
    Diagnostic diagnostic = plain_error("bad-directive", fault->message, fault->remedy);
    const Node& node = form[fault->node];
    diagnostic.place = out_.origins_[node.origin].source.place(node.begin, node.end);
    diagnostics_.add(std::move(diagnostic));
    return;
  }
  const Node& written = (*raw_)[directive];
  const auto origin = static_cast<std::uint32_t>(out_.origins_.size());
  out_.origins_.push_back(
      {raw_->source(), written.begin, written.end, out_.origins_[form[0].origin].bindings});
  count.each([&](std::vector<Node> rule) {
    if (!count_step(directive)) return false;
    out_.forms_.push_back(static_cast<NodeIndex>(out_.nodes_.size()));
    for (Node& node : rule) node.origin = origin;
    out_.nodes_.insert(out_.nodes_.end(), rule.begin(), rule.end());
    return true;
  });
}

// A new origin for what this round of the innermost loop writes.
void Expander::enter_round() {
  const Frame& loop = frames_.back();
  if (!count_step(loop.directive)) return;
  const Node& directive = (*raw_)[loop.directive];
  std::string bindings;
  for (const Frame& frame : frames_) {
    if (frame.loop) {
      bindings +=
          fmt::format("{}{} = {}", bindings.empty() ? "" : ", ", frame.variable, frame.value);
    }
  }
  origin_ = static_cast<std::uint32_t>(out_.origins_.size());
  out_.origins_.push_back({raw_->source(), directive.begin, directive.end, std::move(bindings)});
}

void Expander::read_node() {
  Frame& frame = frames_.back();
  const NodeIndex node = frame.at;
  frame.at += (*raw_)[node].size;
  if (raw_->is_list(node)) {
    read_list(node);
    return;
  }
  // The list whose child this becomes may be outside of the loops around.
  const auto list = std::find_if(frames_.rbegin(), frames_.rend(),
                                 [](const Frame& f) { return f.list != no_node; });
  const bool head = list != frames_.rend() && out_.nodes_[list->list].children == 0;
  const bool condition = list == frames_.rend() || list->conditions;
  write_leaf(node, head || condition);
}

void Expander::read_list(NodeIndex node) {
  const std::string_view head = raw_->head(node);
  if (head.starts_with('#')) {
    if (find_directive(head) != nullptr) {
      read_directive(node, head);
      return;
    }
    std::vector<std::string> names;
    for (const DirectiveFacts& facts : directives()) names.emplace_back(facts.name);
    if (const auto meant = most_similar(head, names)) {
      error(node, "bad-directive", fmt::format("there is no directive `{}`", head),
            Remedy::name_meant(head, *meant));
      return;
    }
  }
  begin_list(node, is_connective(head));
}

void Expander::begin_list(NodeIndex node, bool conditions) {
  Frame frame;
  frame.at = node + 1;
  frame.end = node + (*raw_)[node].size;
  frame.list = static_cast<NodeIndex>(out_.nodes_.size());
  frame.conditions = conditions;
  Node list = (*raw_)[node];
  list.children = 0;
  write(list);
  frames_.push_back(frame);
}

void Expander::read_directive(NodeIndex node, std::string_view name) {
  const bool between_rules =
      std::ranges::none_of(frames_, [](const Frame& f) { return f.list != no_node; });
  if (name == "#for") {
    begin_loop(node);
  } else if (name == "#let" || name == "#include") {
    const bool in_loop = std::ranges::any_of(frames_, &Frame::loop);
    if (!between_rules || in_loop) {
      error(node, "bad-directive", fmt::format("`{}` may only stand between rules", name),
            "move it out");
    } else if (name == "#let") {
      read_let(node);
    } else {
      include(node);
    }
  } else if (name == "#count") {
    if (between_rules) {
      begin_list(node, true);  // becomes rules at its end
      frames_.back().directive = node;
      frames_.back().counts = true;
    } else {
      error(node, "bad-directive", "`#count` makes rules, which cannot stand here",
            "move it out, and ask here for the relation that it makes");
    }
  } else if (between_rules) {
    error(node, "bad-directive", fmt::format("`{}` makes a number, which cannot stand here", name),
          "use it inside a form");
  } else if (const auto value = number(node)) {
    write_number(node, *value);
  }
}

void Expander::read_let(NodeIndex node) {
  const std::vector<NodeIndex> parts = raw_->children(node);
  if (parts.size() != 3 || !raw_->is_symbol(parts[1]) ||
      integer_value((*raw_)[parts[1]].text).has_value()) {
    wrong_shape(node, "#let");
    return;
  }
  const std::string name((*raw_)[parts[1]].text);
  const auto value = number(parts[2]);
  if (!value) return;
  const auto given = sizes_.find(name);
  const auto [known, is_new] = let_in_file_.try_emplace(name, file_origin_);
  if (is_new) {
    lets_[name] = given == sizes_.end() ? *value : given->second;
  } else if (known->second == file_origin_) {
    error(parts[1], "bad-directive", fmt::format("`{}` already has a number", name),
          "use another name");
  }  // else: the file that includes this one has chosen the size
}

void Expander::begin_loop(NodeIndex node) {
  const std::vector<NodeIndex> parts = raw_->children(node);
  if (parts.size() < 4 || !raw_->is_variable(parts[1])) {
    wrong_shape(node, "#for");
    return;
  }
  const auto first = number(parts[2]);
  const auto last = number(parts[3]);
  if (!first || !last || *first > *last || parts.size() == 4) return;
  Frame frame;
  frame.loop = true;
  frame.directive = node;
  frame.body = frame.at = parts[4];
  frame.end = node + (*raw_)[node].size;
  frame.variable = (*raw_)[parts[1]].text;
  frame.value = *first;
  frame.last = *last;
  frame.origin_outside = origin_;
  frames_.push_back(frame);
  enter_round();
}

void Expander::write(Node node) {
  const auto list = std::find_if(frames_.rbegin(), frames_.rend(),
                                 [](const Frame& f) { return f.list != no_node; });
  if (list == frames_.rend()) {
    out_.forms_.push_back(static_cast<NodeIndex>(out_.nodes_.size()));
  } else {
    ++out_.nodes_[list->list].children;
  }
  node.size = 1;
  node.origin = origin_;
  out_.nodes_.push_back(node);
}

void Expander::write_number(NodeIndex node, std::int64_t value) {
  Node leaf = (*raw_)[node];
  leaf.kind = Node::Kind::symbol;
  leaf.children = 0;
  out_.folded_.push_back(std::make_shared<const std::string>(std::to_string(value)));
  leaf.text = *out_.folded_.back();
  write(leaf);
}

// `as_written`: where a relation or function is named, or a condition stands, no size is meant.
void Expander::write_leaf(NodeIndex node, bool as_written) {
  const std::string_view text = (*raw_)[node].text;
  if (raw_->is_variable(node)) {
    if (const auto value = variable_value(text)) return write_number(node, *value);
  } else if (raw_->is_symbol(node) && !as_written) {
    const auto size = lets_.find(std::string(text));
    if (size != lets_.end()) return write_number(node, size->second);
  }
  write((*raw_)[node]);
}

void Expander::include(NodeIndex node) {
  const std::vector<NodeIndex> parts = raw_->children(node);
  if (parts.size() != 2 || (*raw_)[parts[1]].kind != Node::Kind::string) {
    wrong_shape(node, "#include");
    return;
  }
  auto source = files_.read((*raw_)[parts[1]].text, limits_);
  if (!source) {
    const Diagnostic& why = source.diagnostics().items().front();
    error(parts[1], why.code, why.message, why.remedy);
    stopped_ = stopped_ || files_.too_many();
    return;
  }
  ReaderOptions options;
  options.limits = limits_;
  add(read_by_name(*source, options, diagnostics_));
}

Tree read_description(Source source, const Limits& limits, const Sizes& sizes,
                      Diagnostics& diagnostics) {
  ReaderOptions options;
  options.limits = limits;
  const Tree raw = read_by_name(source, options, diagnostics);
  Tree out(std::move(source));
  Expander expander(out, limits, sizes, diagnostics);
  expander.run(raw, 0);
  if (expander.stopped()) return Tree(raw.source());
  expander.check_sizes();
  expander.keep_sizes();
  return out;
}

Tree read_further(const Tree& rules, const std::vector<Source>& further, const Limits& limits,
                  Diagnostics& diagnostics, bool strings) {
  Tree out(rules.source());
  Expander expander(out, limits, rules.sizes(), diagnostics);
  expander.begin_with(rules);
  for (const Source& source : further) {
    ReaderOptions options;
    options.limits = limits;
    options.strings = strings;
    expander.add(read_by_name(source, options, diagnostics));
    if (expander.stopped()) return Tree(rules.source());
  }
  expander.keep_sizes();
  return out;
}

}  // namespace orchard::syntax
