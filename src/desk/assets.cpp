#include "desk/assets.hpp"

#include <algorithm>
#include <array>
#include <fstream>
#include <sstream>

#include "desk/page_files.hpp"

namespace orchard::desk {
namespace {

// Of the package libjs-codemirror.
constexpr std::string_view editor_folder = "/usr/share/javascript/codemirror/";
constexpr std::array editor_files = {
    std::string_view("lib/codemirror.js"),
    std::string_view("lib/codemirror.css"),
    std::string_view("addon/edit/matchbrackets.js"),
    std::string_view("addon/edit/closebrackets.js"),
    std::string_view("addon/search/searchcursor.js"),
    std::string_view("addon/search/search.js"),
    std::string_view("addon/dialog/dialog.js"),
    std::string_view("addon/dialog/dialog.css"),
    std::string_view("addon/comment/comment.js"),
    std::string_view("addon/fold/foldcode.js"),
    std::string_view("addon/fold/foldgutter.js"),
    std::string_view("addon/fold/foldgutter.css"),
    std::string_view("addon/hint/show-hint.js"),
    std::string_view("addon/hint/show-hint.css"),
};

std::string type_of(std::string_view name) {
  if (name.ends_with(".js")) return "text/javascript; charset=utf-8";
  if (name.ends_with(".css")) return "text/css; charset=utf-8";
  return "text/html; charset=utf-8";
}

}  // namespace

std::optional<Asset> asset(std::string_view name) {
  for (const auto& [known, contents] : page_files) {
    if (known == name) return Asset{std::string(contents), type_of(name)};
  }
  constexpr std::string_view editor = "editor/";
  if (!name.starts_with(editor)) return std::nullopt;
  for (const std::string_view file : editor_files) {
    if (name.substr(editor.size()) != file) continue;
    std::ifstream in(std::string(editor_folder) + std::string(file), std::ios::binary);
    if (!in) return std::nullopt;
    std::ostringstream text;
    text << in.rdbuf();
    return Asset{std::move(text).str(), type_of(name)};
  }
  return std::nullopt;
}

bool is_of_seats(std::string_view name) {
  constexpr std::array files = {std::string_view("seat.html"), std::string_view("seat.js"),
                                std::string_view("board.js"), std::string_view("desk.css")};
  return std::ranges::find(files, name) != files.end();
}

}  // namespace orchard::desk
