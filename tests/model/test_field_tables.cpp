// SPDX-License-Identifier: GPL-3.0-or-later
#include <QFile>
#include <QtTest>
#include <cmath>

#include "core/base/numbers.h"
#include "core/model/edit.h"

using namespace culvert;

namespace {

std::string number(double v) { return general(v, 9); }
std::string si_unit(Quantity q) {
    const Unit& u = UnitSet(UnitSystem::Si).unit(q);
    switch (q) {
        case Quantity::Ratio:
        case Quantity::None: return "";
        case Quantity::Slope: return "m/m";
        case Quantity::Intensity: return "m/s";
        case Quantity::Area: return "m²";
        case Quantity::Flow: return "m³/s";
        case Quantity::Duration: return "s";
        case Quantity::Size: return "m";
        default: return std::string(u.symbol);
    }
}
/// "0.02 to 20", "above 0", "up to 1".
std::string range(double low, double high, bool open) {
    const bool from = low > -1e299, to = high < 1e299;
    if (from && to) return (open ? "above " + number(low) + " and up to " : number(low) + " to ") + number(high);
    if (from) return (open ? "above " : "from ") + number(low);
    return to ? "up to " + number(high) : "";
}
std::string words_of(const FieldInfo& f, const Value& v) {
    if (const auto* d = std::get_if<double>(&v)) return std::isnan(*d) ? "" : number(*d);
    if (const auto* s = std::get_if<std::string>(&v)) return *s;
    if (const auto* c = std::get_if<int>(&v)) return std::string(f.choices[static_cast<std::size_t>(*c)]);
    if (const auto* b = std::get_if<bool>(&v)) return *b ? "yes" : "no";
    if (const auto* list = std::get_if<std::vector<double>>(&v)) {
        std::string out;
        for (const double d : *list) out += (out.empty() ? "" : " ") + number(d);
        return out;
    }
    return "";
}
/// What may stand in a field.
template <class R>
std::string takes(const Field<R>& f) {
    std::string out;
    if (!f.choices.empty()) {
        for (const auto c : f.choices) out += (out.empty() ? "" : ", ") + std::string(c.empty() ? "(none)" : c);
        return out;
    }
    if (std::holds_alternative<std::string R::*>(f.member)) return "text";
    if (std::holds_alternative<bool R::*>(f.member)) return "yes or no";
    if (std::holds_alternative<std::vector<Point> R::*>(f.member)) return "places";
    if (f.refers_to != Refers::Nothing)
        return (f.refers_to == Refers::Event || f.refers_to == Refers::Element ? "an " : "a ") +
               std::string(refers_name(f.refers_to));
    if (!std::holds_alternative<double R::*>(f.member) && !std::holds_alternative<std::vector<double> R::*>(f.member))
        return "an id";
    out = std::holds_alternative<double R::*>(f.member) ? "number" : "numbers";
    if (const std::string u = si_unit(f.quantity); !u.empty()) out += " in " + u;
    if (const std::string r = range(f.low, f.high, f.low_open); !r.empty()) out += ", " + r;
    if (f.needed) out += ", needed";
    if (f.scale.low < f.scale.high && (f.scale.low != f.low || f.scale.high != f.high))
        out += "; asked about beyond " + number(f.scale.low) + " to " + number(f.scale.high);
    return out;
}
template <class R>
void rows_into(std::string& out, const Project& p) {
    const R fresh{};
    for (const R& row : p.table<R>()) {
        std::string line;
        for (const Field<R>& f : fields_of<R>()) {
            const Value v = get(row, f);
            if (same_value(v, get(fresh, f))) continue;
            line += (line.empty() ? "" : ", ") + std::string(f.key) + " " + words_of(f, v);
        }
        out += "* " + line + "\n";
    }
}
std::string document() {
    std::string out =
        "# Fields\n\nEvery table of a project file with its fields: what they mean, what may stand in them, and what "
        "they hold in a new row. Numbers are SI here, whatever units a file is written in. A number out of its range "
        "is kept, named among the findings, and given to no calculation; one that is asked about is legal, but a slip "
        "of the unit is likely. A test holds this page against the program.\n";
    for (std::size_t k = 0; k < kind_count; ++k) {
        const Kind kind = static_cast<Kind>(k);
        out += "\n## " + std::string(table_name(kind)) +
               "\n\n| field | label | takes | in a new row | meaning |\n|---|---|---|---|---|\n";
        with_row_type(kind, [&]<class R>(std::type_identity<R>) {
            const R fresh{};
            for (const Field<R>& f : fields_of<R>())
                out += "| `" + std::string(f.key) + "` | " + std::string(f.label) + " | " + takes(f) + " | " +
                       words_of(f, get(fresh, f)) + " | " + std::string(f.help) + " |\n";
        });
    }
    out += "\n## Values of limits\n\n| kind | value |\n|---|---|\n";
    const Field<Limit>& value = fields_of<Limit>()[*field_index(Kind::Limit, "value")];
    for (std::size_t k = 0; k < limit_count; ++k) {
        Limit l;
        l.kind = static_cast<LimitKind>(k);
        Field<Limit> f = value;
        static_cast<FieldInfo&>(f) = info_for(l, value);
        out += "| " + std::string(fields_of<Limit>()[*field_index(Kind::Limit, "kind")].choices[k]) + " | " + takes(f) +
               " |\n";
    }
    for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
        out += "\n## What a new project in " + std::string(system == UnitSystem::Si ? "SI" : "US") +
               " units holds\n\nWhat differs from a new row, in SI:\n";
        const Project p = new_project(system);
        for (std::size_t k = 0; k < kind_count; ++k)
            with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                if (p.table<R>().size() == 0) return;
                out += "\n### " + std::string(table_name(static_cast<Kind>(k))) + "\n\n";
                rows_into<R>(out, p);
            });
    }
    return out;
}

}  // namespace

/// The page of fields says what the program does: ranges, choices, first values.
class TestFieldTables : public QObject {
    Q_OBJECT
  private slots:
    /// With CULVERT_WRITE_FIELDS the page is written anew; read the difference before you commit it.
    void the_page_of_fields_is_current() {
        QFile page(QString(CULVERT_SOURCE) + "/docs/fields.md");
        const std::string now = document();
        if (qEnvironmentVariableIsSet("CULVERT_WRITE_FIELDS")) {
            QVERIFY(page.open(QIODevice::WriteOnly));
            page.write(now.c_str());
            return;
        }
        QVERIFY(page.open(QIODevice::ReadOnly));
        const QStringList said = QString::fromUtf8(page.readAll()).split('\n'),
                          is = QString::fromStdString(now).split('\n');
        for (int i = 0; i < std::min(said.size(), is.size()); ++i)
            QVERIFY2(said[i] == is[i],
                     qPrintable(QString("line %1\nthe page: %2\nthe program: %3").arg(i + 1).arg(said[i], is[i])));
        QCOMPARE(said.size(), is.size());
    }
};
QTEST_APPLESS_MAIN(TestFieldTables)
#include "test_field_tables.moc"
