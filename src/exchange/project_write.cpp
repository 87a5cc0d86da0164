// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>

#include "exchange/json_tree.h"
#include "exchange/project_file.h"

namespace culvert {
namespace {

class Writer {
  public:
    explicit Writer(const Project& project) : project_(project), units_(project.settings().system) {}

    std::string run() {
        out_ = "{\n\"calm-culvert\": " + std::to_string(format_version) + ",\n\"settings\": ";
        row(project_.settings());
        for (std::size_t k = 0; k < kind_count; ++k)
            if (static_cast<Kind>(k) != Kind::Settings)
                with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                    out_ += ",\n\"" + std::string(table_name(kind_of<R>())) + "\": [";
                    const char* separator = "\n";
                    for (const R& r : project_.table<R>()) {
                        out_ += separator;
                        row(r);
                        separator = ",\n";
                    }
                    out_ += separator[0] == ',' ? "\n]" : "]";
                });
        if (!project_.unknown.empty()) out_ += ",\n" + project_.unknown;
        return std::move(out_) + "\n}\n";
    }

  private:
    void number(double si, Quantity q) {
        out_ += std::isfinite(si) ? shortest_decimal(si, units_.unit(q).factor) : "null";
    }

    template <class R>
    void row(const R& r) {
        static const R blank{};
        out_ += "{\"id\": \"" + id_text(r.id) + "\"";
        std::string origins;
        const auto fields = fields_of<R>();
        for (std::size_t i = 0; i < fields.size(); ++i) {
            const Field<R>& f = fields[i];
            const Value value = get(r, f);
            const bool plain_default = r.origin[i] == Origin::Default && same_value(value, get(blank, f));
            if (plain_default) continue;
            out_ += ", \"" + std::string(f.key) + "\": ";
            write(value, f, info_for(r, f).quantity);
            if (r.origin[i] != Origin::Typed)
                origins += (origins.empty() ? "\"" : ", \"") + std::string(f.key) + "\": \"" +
                           std::string(origin_names[static_cast<std::size_t>(r.origin[i])]) + "\"";
        }
        if (!origins.empty()) out_ += ", \"origin\": {" + origins + "}";
        if (!r.foreign.empty()) {
            out_ += ", \"other_ids\": {";
            for (std::size_t i = 0; i < r.foreign.size(); ++i)
                out_ += (i ? ", " : "") + json_quote(r.foreign[i].first) + ": " + json_quote(r.foreign[i].second);
            out_ += "}";
        }
        if (!r.unknown.empty()) out_ += ", " + r.unknown;
        out_ += "}";
    }

    void write(const Value& value, const FieldInfo& f, Quantity q) {
        std::visit(
            [&]<class T>(const T& v) {
                if constexpr (std::is_same_v<T, double>) number(v, q);
                else if constexpr (std::is_same_v<T, std::string>) out_ += json_quote(v);
                else if constexpr (std::is_same_v<T, bool>) out_ += v ? "true" : "false";
                else if constexpr (std::is_same_v<T, int>)
                    out_ += json_quote(std::string(f.choices[static_cast<std::size_t>(v)]));
                else if constexpr (std::is_same_v<T, std::uint64_t>) out_ += v ? "\"" + id_text(v) + "\"" : "null";
                else {
                    out_ += "[";
                    for (std::size_t i = 0; i < v.size(); ++i) {
                        if (i) out_ += ", ";
                        if constexpr (std::is_same_v<T, std::vector<Point>>) {
                            out_ += "[";
                            number(v[i].x, Quantity::Length);
                            out_ += ", ";
                            number(v[i].y, Quantity::Length);
                            out_ += "]";
                        } else number(v[i], q);
                    }
                    out_ += "]";
                }
            },
            value);
    }

    const Project& project_;
    UnitSet units_;
    std::string out_;
};

}  // namespace

std::string write_project(const Project& project) { return Writer(project).run(); }

}  // namespace culvert
