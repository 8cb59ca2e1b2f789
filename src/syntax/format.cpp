// The printer walks the forms with a stack of the open ones. A form stands on one line if it fits
// and holds no comment; else its parts go to lines of their own. Comments and the blank lines
// between rules are taken over at the gaps between parts.
#include "orchard/format.hpp"

#include <algorithm>
#include <vector>

#include "syntax/characters.hpp"
#include "syntax/expand.hpp"
#include "syntax/shape.hpp"

namespace orchard {
namespace syntax {
namespace {

constexpr std::uint32_t line_width = 100;
constexpr std::uint32_t most_indent = 60;  // so that deep nesting does not square the output

class Printer {
 public:
  Printer(const Tree& tree, Syntax from, Syntax to, bool keeps_layout)
      : tree_(tree), from_(from), to_(to), keeps_layout_(keeps_layout) {}

  std::string run();

 private:
  struct Frame {
    Shape shape;
    std::uint32_t end = 0;   // of the form in the source
    std::uint32_t done = 0;  // parts begun
    NodeIndex next = no_node;
    std::uint32_t indent = 0;  // of parts on lines of their own
    std::uint32_t tail = 0;    // characters that follow the form at once
    bool flat = false;
    bool among_rules = false;
  };

  void measure();
  void print_form(NodeIndex form);
  void begin(NodeIndex node, bool among_rules, bool inside, std::uint32_t tail);
  void step();
  void finish(Frame& frame);
  bool break_before(const Frame& frame) const;
  bool print_comments(std::uint32_t limit, std::uint32_t indent, bool blank_lines);
  void new_line(std::uint32_t indent);
  void blank_line_before(std::uint32_t offset);
  bool has_comment(std::uint32_t begin, std::uint32_t end) const;
  bool on_own_line(const Comment& comment) const;
  std::string comment_text(const Comment& comment) const;
  void put(std::string_view text) {
    out_ += text;
    column_ += static_cast<std::uint32_t>(count_characters(text));
  }

  const Tree& tree_;
  const Syntax from_;
  const Syntax to_;
  const bool keeps_layout_;
  std::vector<std::uint32_t> widths_;  // of nodes on one line
  std::vector<Frame> frames_;
  std::size_t next_comment_ = 0;
  std::string out_;
  std::uint32_t column_ = 0;
  std::uint32_t line_indent_ = 0;
};

std::string Printer::run() {
  measure();
  for (const NodeIndex form : tree_.forms()) print_form(form);
  if (keeps_layout_) {
    const auto all = static_cast<std::uint32_t>(tree_.source().text().size());
    print_comments(all + 1, 0, true);
  }
  if (!out_.empty()) out_ += '\n';
  return std::move(out_);
}

void Printer::measure() {
  constexpr std::uint32_t most = 1u << 20;  // far beyond any line; sums stay small
  widths_.resize(tree_.size());
  for (NodeIndex at = static_cast<NodeIndex>(tree_.size()); at-- > 0;) {
    if (!tree_.is_list(at)) {
      widths_[at] = spelling_length(tree_[at], to_);
      continue;
    }
    const Shape shape = shape_of(tree_, at, to_, false, true);
    std::uint32_t width = shape.name == no_node ? 0 : widths_[shape.name];
    width += static_cast<std::uint32_t>(shape.open.size() + shape.close.size());
    NodeIndex part = shape.first;
    for (std::uint32_t i = 0; i < shape.parts; ++i, part += tree_[part].size) {
      const std::string_view separator = i == 0 ? shape.first_separator : shape.separator;
      width += widths_[part];
      if (i + 1 < shape.parts) width += static_cast<std::uint32_t>(separator.size()) + 1;
      width = std::min(width, most);
    }
    widths_[at] = width;
  }
}

void Printer::print_form(NodeIndex form) {
  const std::uint32_t begin_offset = tree_[form].begin;
  if (keeps_layout_) print_comments(begin_offset, 0, true);
  if (!out_.empty()) {
    if (keeps_layout_) blank_line_before(begin_offset);
    new_line(0);
  }
  const bool stop = to_ == Syntax::infix;
  begin(form, true, false, stop ? 1 : 0);
  while (!frames_.empty()) step();
  if (stop) put(".");
}

// Prints a leaf; opens a list.
void Printer::begin(NodeIndex node, bool among_rules, bool inside, std::uint32_t tail) {
  if (!tree_.is_list(node)) {
    put(spelling(tree_[node], to_));
    return;
  }
  Frame frame;
  frame.shape = shape_of(tree_, node, to_, among_rules, inside);
  frame.end = tree_[node].end;
  frame.next = frame.shape.first;
  frame.tail = tail;
  frame.among_rules = among_rules;
  const bool kept = !frames_.empty() && frames_.back().done <= frames_.back().shape.kept;
  const std::uint32_t outer = kept ? frames_.back().indent : line_indent_;
  const std::uint32_t base = frame.shape.hangs ? column_ : outer;
  frame.indent = std::min(base + frame.shape.indent, most_indent);
  const bool outer_flat = !frames_.empty() && frames_.back().flat;
  frame.flat = outer_flat || (!frame.shape.breaks && column_ + widths_[node] + tail <= line_width &&
                              !has_comment(tree_[node].begin, tree_[node].end));
  if (frame.shape.name != no_node) put(spelling(tree_[frame.shape.name], to_));
  put(frame.shape.open);
  frames_.push_back(frame);
}

void Printer::step() {
  Frame& frame = frames_.back();
  if (frame.done == frame.shape.parts) return finish(frame);
  const NodeIndex part = frame.next;
  const bool first = frame.done == 0;
  if (!first) put(frame.done == 1 ? frame.shape.first_separator : frame.shape.separator);
  const bool rules = frame.shape.rules && frame.done >= frame.shape.kept;
  bool broken = false;
  if (!frame.flat && keeps_layout_) {
    broken = print_comments(tree_[part].begin, frame.indent, rules);
  }
  if (!frame.flat && (broken || break_before(frame))) {
    if (rules && keeps_layout_ && frame.done > frame.shape.kept) {
      blank_line_before(tree_[part].begin);
    }
    new_line(frame.indent);
  } else if (!first) {
    put(" ");
  }
  ++frame.done;
  frame.next += tree_[part].size;
  const bool last = frame.done == frame.shape.parts;
  const std::string_view after = last              ? frame.shape.close
                                 : frame.done == 1 ? frame.shape.first_separator
                                                   : frame.shape.separator;
  const std::uint32_t tail =
      static_cast<std::uint32_t>(after.size()) + (last ? std::min(frame.tail, line_width) : 0);
  begin(part, rules, true, tail);
}

bool Printer::break_before(const Frame& frame) const {
  if (frame.done < frame.shape.kept) return false;
  if (!frame.shape.fills) return true;
  if (frame.done == 0) return frame.shape.parts > 0;
  const bool last = frame.done + 1 == frame.shape.parts;
  const std::uint32_t tail = 1 + (last ? frame.tail : 0);
  return column_ + 1 + widths_[frame.next] + tail > line_width ||
         has_comment(tree_[frame.next].begin, tree_[frame.next].end);
}

void Printer::finish(Frame& frame) {
  if (!frame.flat && keeps_layout_ && print_comments(frame.end, frame.indent, false)) {
    new_line(frame.indent - std::min(frame.indent, frame.shape.indent));
  }
  put(frame.shape.close);
  frames_.pop_back();
}

// The comments before an offset of the source; true if there was one, so that the line is over.
bool Printer::print_comments(std::uint32_t limit, std::uint32_t indent, bool blank_lines) {
  bool any = false;
  const std::vector<Comment>& comments = tree_.comments();
  for (; next_comment_ < comments.size() && comments[next_comment_].begin < limit;
       ++next_comment_) {
    const Comment& comment = comments[next_comment_];
    if (!out_.empty() && !on_own_line(comment) && !any) {
      if (out_.back() != ' ') put(" ");
    } else {
      if (!out_.empty()) {
        if (blank_lines) blank_line_before(comment.begin);
        new_line(indent);
      }
    }
    put(comment_text(comment));
    any = true;
  }
  return any;
}

void Printer::new_line(std::uint32_t indent) {
  while (!out_.empty() && out_.back() == ' ') out_.pop_back();
  out_ += '\n';
  out_.append(indent, ' ');
  column_ = line_indent_ = indent;
}

// An empty line, if the source has one right before the offset.
void Printer::blank_line_before(std::uint32_t offset) {
  const std::string_view text = tree_.source().text();
  int lines = 0;
  while (offset > 0 && lines < 2) {
    const char c = text[--offset];
    if (c == '\n') {
      ++lines;
    } else if (c != ' ' && (c < '\t' || c > '\r')) {
      break;
    }
  }
  if (lines == 2) out_ += '\n';
}

bool Printer::has_comment(std::uint32_t begin, std::uint32_t end) const {
  if (!keeps_layout_) return false;
  const auto found = std::ranges::lower_bound(tree_.comments(), begin, {},
                                              [](const Comment& c) { return c.begin; });
  return found != tree_.comments().end() && found->begin < end;
}

bool Printer::on_own_line(const Comment& comment) const {
  const std::string_view text = tree_.source().text();
  for (std::uint32_t at = comment.begin; at > 0; --at) {
    const char c = text[at - 1];
    if (c == '\n') return true;
    if (c != ' ' && (c < '\t' || c > '\r')) return false;
  }
  return true;
}

// With the mark of the syntax written, and no space at the end.
std::string Printer::comment_text(const Comment& comment) const {
  std::string text(tree_.source().text().substr(comment.begin, comment.end - comment.begin));
  while (!text.empty() && (text.back() == ' ' || (text.back() >= '\t' && text.back() <= '\r'))) {
    text.pop_back();
  }
  const char mark = from_ == Syntax::infix ? '%' : ';';
  const char other = to_ == Syntax::infix ? '%' : ';';
  for (char& c : text) {
    if (c != mark) break;
    c = other;
  }
  return text;
}

}  // namespace
}  // namespace syntax

Syntax syntax_of(std::string_view file_name) {
  return file_name.ends_with(".gdli") ? Syntax::infix : Syntax::prefix;
}

namespace {

syntax::Limits limits_of(const FormatOptions& options) {
  syntax::Limits limits;
  limits.file_bytes = options.file_bytes;
  limits.nesting = options.nesting;
  limits.symbols = options.symbols;
  limits.forms = options.forms;
  return limits;
}

Result<std::string> format_source(const syntax::Source& source, const FormatOptions& options) {
  Diagnostics diagnostics;
  syntax::ReaderOptions reading;
  reading.limits = limits_of(options);
  const std::string& name = source.name();
  const Syntax from = syntax_of(name);
  const Syntax to = options.to.value_or(from);
  reading.strings =
      name.ends_with(".cases") || name.ends_with(".positions") || name.ends_with(".claims");
  const syntax::Tree tree =
      options.expand ? syntax::read_description(source, reading.limits, options.sizes, diagnostics)
                     : syntax::read_by_name(source, reading, diagnostics);
  for (syntax::NodeIndex at = 0; at < tree.size(); ++at) {
    if (syntax::can_say(tree, at, to)) continue;
    syntax::report(tree, at, "cannot-write", "the infix syntax has no way to write this",
                   "write it as NAME or (NAME TERM…), or keep the prefix syntax", diagnostics);
  }
  if (diagnostics.has_errors()) {
    diagnostics.sort_by_place();
    return diagnostics;
  }
  return syntax::Printer(tree, from, to, !options.expand).run();
}

}  // namespace

Result<std::string> format_text(std::string text, std::string name, const FormatOptions& options) {
  return format_source(syntax::Source(std::move(name), std::move(text)), options);
}

Result<std::string> format_file(const std::string& path, const FormatOptions& options) {
  const auto source = syntax::Source::from_file(path, limits_of(options));
  if (!source) return source.diagnostics();
  return format_source(*source, options);
}

}  // namespace orchard
