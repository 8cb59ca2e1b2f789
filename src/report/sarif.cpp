#include "base/json.hpp"
#include "orchard/report.hpp"

#include <fmt/core.h>

#include <map>

namespace orchard {
namespace {

std::string_view level_of(Severity severity) {
  switch (severity) {
    case Severity::error:
      return "error";
    case Severity::suspicious:
      return "warning";
    case Severity::hint:
      return "note";
  }
  return "none";
}

// A path as a relative or absolute URI reference: other bytes than these are escaped.
std::string uri_of(std::string_view path) {
  std::string uri = path.starts_with('/') ? "file://" : "";
  for (const char c : path) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                       std::string_view("-._~/").find(c) != std::string_view::npos;
    uri += plain ? std::string(1, c) : fmt::format("%{:02X}", static_cast<unsigned char>(c));
  }
  return uri;
}

Json location_of(const Place& place) {
  Json physical = {{"artifactLocation", {{"uri", uri_of(place.file)}}}};
  if (place.line > 0) {
    physical["region"] = {{"startLine", place.line},
                          {"startColumn", place.column},
                          {"endColumn", place.column + place.width}};
  }
  return {{"physicalLocation", physical}};
}

}  // namespace

std::string to_sarif(const Diagnostics& diagnostics, std::string_view tool_version) {
  std::map<std::string, std::size_t> index_of_code;
  Json rules = Json::array();
  Json results = Json::array();
  for (const Diagnostic& item : diagnostics) {
    const auto [code, is_new] = index_of_code.try_emplace(item.code, rules.size());
    if (is_new) rules.push_back({{"id", item.code}});
    std::string text = item.message;
    if (!item.remedy.empty()) text += "; remedy: " + item.remedy;
    Json result = {{"ruleId", item.code},
                   {"ruleIndex", code->second},
                   {"level", level_of(item.severity)},
                   {"message", {{"text", text}}}};
    if (!item.place.file.empty()) result["locations"] = Json::array({location_of(item.place)});
    for (const Note& note : item.notes) {
      Json related = location_of(note.place);
      related["message"] = {{"text", note.message}};
      result["relatedLocations"].push_back(std::move(related));
    }
    results.push_back(std::move(result));
  }
  const Json driver = {{"name", "orchard"}, {"version", tool_version}, {"rules", rules}};
  const Json run = {
      {"tool", {{"driver", driver}}}, {"columnKind", "unicodeCodePoints"}, {"results", results}};
  const Json log = {
      {"$schema",
       "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json"},
      {"version", "2.1.0"},
      {"runs", Json::array({run})}};
  return json_text(log, 1) + "\n";
}

}  // namespace orchard
