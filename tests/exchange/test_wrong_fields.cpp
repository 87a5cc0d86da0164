// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <map>
#include <random>

#include "core/base/numbers.h"
#include "core/model/cells.h"
#include "core/model/variant.h"
#include "exchange/edit_text.h"
#include "exchange/paste_table.h"
#include "exchange/project_file.h"
#include "exchange/shelf.h"
#include "support/networks.h"

using namespace culvert;

/// Every field of every kind of row, right and wrong: what fits comes back as it was from files and from the text of an
/// Edit, what does not is named with its element, its field, what was found and what is wanted, and nothing else is
/// lost.
class TestWrongFields : public QObject {
    Q_OBJECT
    /// What no field of this type takes.
    static std::string wrong_for(const Value& model) {
        if (std::holds_alternative<double>(model)) return "\"seven\"";
        if (std::holds_alternative<std::string>(model)) return "7.5";
        if (std::holds_alternative<int>(model)) return "\"spoon\"";
        if (std::holds_alternative<bool>(model)) return "\"yes\"";
        if (std::holds_alternative<std::uint64_t>(model)) return "\"12 pipes\"";
        return "{\"at\":1}";
    }
    /// A value of a field that is not its default.
    static Value sample(const FieldInfo& info, const Value& model) {
        if (std::holds_alternative<double>(model)) return info.key == "x" || info.key == "y" ? 12.1 + 0.2 : 0.1 + 0.2;
        if (std::holds_alternative<std::string>(model)) return std::string("ä \"b\"\n\\c");
        if (std::holds_alternative<int>(model)) return static_cast<int>(info.choices.size()) - 1;
        if (const bool* flag = std::get_if<bool>(&model)) return !*flag;
        if (std::holds_alternative<std::uint64_t>(model)) return std::uint64_t{0xabcdef0123456789};
        if (std::holds_alternative<std::vector<double>>(model)) return std::vector<double>{0.1 + 0.2, 1e-9, 3};
        return std::vector<Point>{{1.25, -3}, {0.1 + 0.2, 1e-9}};
    }
    template <class F>
    static void each_field(F use) {
        for (std::size_t k = 0; k < kind_count; ++k)
            for (std::size_t i = 0; i < infos_of(static_cast<Kind>(k)).size(); ++i)
                use(static_cast<Kind>(k), i, *infos_of(static_cast<Kind>(k))[i], blank_value(static_cast<Kind>(k), i));
    }
    static Edit edit_of(Change change) {
        Edit edit;
        edit.name = "one";
        edit.changes.push_back(std::move(change));
        return edit;
    }
    static std::uint64_t id_for(Kind kind) { return kind == Kind::Settings ? settings_id : 0x77; }
    static std::string patch(Kind kind, const FieldInfo& info, const std::string& value, const std::string& origins) {
        return "{\"patch\":\"" + std::string(kind_name(kind)) + "\",\"id\":\"" + id_text(id_for(kind)) +
               "\",\"field\":\"" + std::string(info.key) + "\",\"before\":" + value + ",\"after\":" + value + origins +
               "}";
    }
    static std::string project(Kind kind, const std::string& member) {
        const std::string head = "{\"calm-culvert\": 2,\n\"settings\": {\"system\": \"SI\"";
        if (kind == Kind::Settings) return head + ",\n" + member + "}}\n";
        return head + "},\n\"" + std::string(table_name(kind)) + "\": [{\"id\": \"" + id_text(id_for(kind)) + "\",\n" +
               member + "}]}\n";
    }
    static bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

  private slots:
    void a_patch_of_any_field_comes_back() {
        each_field([](Kind kind, std::size_t i, const FieldInfo& info, const Value& blank) {
            const Edit edit =
                edit_of(Patch{kind, id_for(kind), i, blank, sample(info, blank), Origin::Ground, Origin::Imported});
            std::vector<std::string> problems;
            const auto back = read_edit(edit_text(edit), &problems);
            QVERIFY2(back && problems.empty() && back->changes.size() == 1,
                     (std::string(info.key) + (problems.empty() ? "" : problems[0])).c_str());
            const Patch& p = std::get<Patch>(back->changes[0]);
            QVERIFY(p.kind == kind && p.id == id_for(kind) && p.field == i && p.after == sample(info, blank));
            QVERIFY(p.origin_before == Origin::Ground && p.origin_after == Origin::Imported);
            QCOMPARE(edit_text(*back), edit_text(edit));
        });
    }
    void a_patch_that_does_not_fit_is_named_and_kept() {
        each_field([](Kind kind, std::size_t, const FieldInfo& info, const Value& blank) {
            const std::string wrong = wrong_for(blank), bad = patch(kind, info, wrong, ""),
                              good = "{\"patch\":\"settings\",\"id\":\"" + id_text(settings_id) +
                                     "\",\"field\":\"title\",\"before\":\"\",\"after\":\"New\"}";
            std::vector<std::string> problems;
            const auto back = read_edit("{\"name\":\"two\",\"changes\":[" + bad + "," + good + "]}", &problems);
            QVERIFY(back);
            QCOMPARE(problems.size(), std::size_t{1});
            QVERIFY2(has(problems[0], std::string(kind_name(kind)) + " " + id_text(id_for(kind)) + ", field \"" +
                                          std::string(info.key) + "\": "),
                     problems[0].c_str());
            const char* said = std::holds_alternative<double>(blank) ? "expected a number, found the text \"seven\""
                               : std::holds_alternative<std::string>(blank) ? "expected a text, found "
                               : std::holds_alternative<int>(blank)         ? "the text \"spoon\" is no choice"
                               : std::holds_alternative<bool>(blank) ? "expected true or false, found the text \"yes\""
                               : std::holds_alternative<std::uint64_t>(blank)
                                   ? "the text \"12 pipes\" is no id of 16 hexadecimal digits"
                                   : "expected a list, found ";
            QVERIFY2(has(problems[0], said), problems[0].c_str());
            QCOMPARE(back->changes.size(), std::size_t{1});
            // Written again it is still there, and is named again.
            std::vector<std::string> again;
            QVERIFY(read_edit(edit_text(*back), &again));
            QCOMPARE(again, problems);
        });
    }
    void rows_and_patches_that_are_none_are_named() {
        const auto said = [](const std::string& change) {
            std::vector<std::string> problems;
            const auto back = read_edit("{\"name\":\"x\",\"changes\":[" + change + "]}", &problems);
            return back && back->changes.empty() && problems.size() == 1 ? problems[0] : std::string("taken");
        };
        const std::string id = "\"id\":\"" + id_text(5) + "\"", rim = ",\"field\":\"rim\",\"before\":1,\"after\":2";
        for (const auto& [change, words] : std::vector<std::pair<std::string, std::string>>{
                 {"{\"set\":1}", "a change is neither patch, insert nor delete"},
                 {"{\"insert\":\"spoon\",\"row\":{}}", "\"spoon\" is no kind of element that is known here"},
                 {"{\"insert\":\"settings\",\"row\":{" + id + "}}", "the settings can be neither inserted nor deleted"},
                 {"{\"delete\":\"settings\",\"row\":{" + id + "}}", "the settings can be neither inserted nor deleted"},
                 {"{\"delete\":\"pipe\",\"row\":[7]}", "a pipe must be an object, found "},
                 {"{\"insert\":\"pipe\",\"row\":{\"size\":1}}", "a pipe has no id"},
                 {"{\"insert\":\"pipe\",\"row\":{\"id\":\"" + id_text(0) + "\"}}", "a pipe has no id"},
                 {"{\"insert\":\"structure\",\"row\":{" + id + ",\"name\":\"MH 7\",\"colour\":\"red\"}}",
                  "structure MH 7, field \"colour\": this field is not known here"},
                 {"{\"insert\":\"structure\",\"row\":{" + id + ",\"name\":\"MH 7\",\"rim\":\"high\"}}",
                  "structure MH 7, field \"rim\": expected a number, found the text \"high\""},
                 {"{\"insert\":\"structure\",\"row\":{" + id + ",\"rim\":1,\"origin\":{\"rim\":\"dreamt\"}}}",
                  "the text \"dreamt\" is no origin of a value"},
                 {"{\"insert\":\"pipe\",\"row\":{" + id + ",\"bends\":[[1,2],[3]]}}",
                  "field \"bends\": expected a point [x, y], found "},
                 {"{\"insert\":\"pipe\",\"row\":{" + id + ",\"bends\":[[1,null]]}}",
                  "field \"bends\": expected a number, found "},
                 {"{\"insert\":\"event\",\"row\":{" + id + ",\"durations\":[1,\"b\"]}}",
                  "field \"durations\": expected a number, found the text \"b\""},
                 {"{\"patch\":\"structure\"," + id + ",\"field\":\"rim\",\"before\":1}",
                  "a patch lacks its id, field or values"},
                 {"{\"patch\":\"structure\",\"id\":\"" + id_text(0) + "\"" + rim + "}",
                  "field \"rim\": there is no such element"},
                 {"{\"patch\":\"settings\"," + id + ",\"field\":\"title\",\"before\":\"\",\"after\":\"a\"}",
                  "field \"title\": there is no such element"},
                 {"{\"patch\":\"structure\"," + id + ",\"field\":\"colour\",\"before\":1,\"after\":2}",
                  "field \"colour\": this field is not known here"},
                 {"{\"patch\":\"structure\"," + id + rim + ",\"origins\":[\"typed\",7000]}",
                  "7000 is no origin of a value"}})
            QVERIFY2(has(said(change), words), (change + "\n" + said(change)).c_str());
        // Fewer origins than two say nothing; choices and origins may be numbers, as older versions wrote them.
        QCOMPARE(said("{\"patch\":\"structure\"," + id + rim + ",\"origins\":[7000]}"), std::string("taken"));
        QCOMPARE(
            said("{\"patch\":\"structure\"," + id + ",\"field\":\"kind\",\"before\":0,\"after\":1,\"origins\":[0,1]}"),
            std::string("taken"));
    }
    /// Ids that other systems gave go with a row, and so does what another version knew of it.
    void a_row_takes_all_it_has_along() {
        Structure s;
        s.id = 9;
        s.name = "MH 9";
        s.rim = 3.25;
        s.foreign = {{"survey \"A\"", "P-17"}, {"register", "ä\n9"}};
        s.unknown = "\"colour\": \"red\"";
        s.origin[*field_index(Kind::Structure, "rim")] = Origin::Ground;
        for (const Change& change : {Change{Insert{s}}, Change{Delete{s}}}) {
            const auto back = read_edit(edit_text(edit_of(change)));
            QVERIFY(back && back->changes.size() == 1 && back->changes[0].index() == change.index());
            const AnyRow& row =
                change.index() == 1 ? std::get<Insert>(back->changes[0]).row : std::get<Delete>(back->changes[0]).row;
            const Structure& r = std::get<Structure>(row);
            QVERIFY(r == s && r.foreign == s.foreign && r.unknown == s.unknown && r.origin == s.origin);
        }
    }
    /// Of a long text only what changed stands in the journal: whole characters, wherever the change lies.
    void a_splice_gives_back_the_text() {
        std::mt19937 dice(5);
        const char* letters[] = {"a",  "b",  "ä",  "ö", "–", "€",
                                 "\"", "\\", "\n", "𝄞", "Ĥ"};  // the last ends as "ä" does
        const auto some = [&](std::size_t n) {
            std::string out;
            for (std::size_t i = 0; i < n; ++i) out += letters[dice() % 11];
            return out;
        };
        std::size_t shorter = 0;
        for (int round = 0; round < 400; ++round) {
            const std::string head = some(dice() % 300), tail = some(100 + dice() % 300),
                              before = head + some(dice() % 4) + tail, after = head + some(dice() % 4) + tail;
            const Edit edit = edit_of(Patch{Kind::Settings, settings_id, *field_index(Kind::Settings, "title"), before,
                                            after, Origin::Typed, Origin::Typed});
            JsonOutcome json = parse_json(short_edit_text(edit));
            QVERIFY(json.ok);  // half a character would be no UTF-8
            shorter += short_edit_text(edit).size() < before.size();
            const auto whole = read_edit(edit_text(edit));  // the long form needs no text before it
            QVERIFY(whole && whole->changes.size() == 1);
            QCOMPARE(std::get<std::string>(std::get<Patch>(whole->changes[0]).before), before);
            QCOMPARE(std::get<std::string>(std::get<Patch>(whole->changes[0]).after), after);
            expand_splices(json.root, [&](const std::string& kind, std::uint64_t id, const std::string& key) {
                return kind == "settings" && id == settings_id && key == "title" ? &before : nullptr;
            });
            const auto back = read_edit(json.root);
            QVERIFY(back && back->changes.size() == 1);
            const Patch& p = std::get<Patch>(back->changes[0]);
            QCOMPARE(std::get<std::string>(p.before), before);
            QCOMPARE(std::get<std::string>(p.after), after);
        }
        QVERIFY2(shorter > 300, qPrintable(QString::number(shorter)));
    }
    /// A splice that does not fit the text before it is left, and found fault with.
    void a_splice_beside_the_text_is_no_change() {
        const std::string text(400, 'a');
        for (const char* splice : {"[401,0,\"b\"]", "[-1,0,\"b\"]", "[0,401,\"b\"]", "[390,11,\"b\"]", "[0,0]"}) {
            JsonOutcome json = parse_json("{\"name\":\"x\",\"changes\":[{\"patch\":\"settings\",\"id\":\"" +
                                          id_text(settings_id) + "\",\"field\":\"title\",\"splice\":" + splice + "}]}");
            QVERIFY(json.ok);
            expand_splices(json.root, [&](auto&&...) { return &text; });
            std::vector<std::string> problems;
            const auto back = read_edit(json.root, &problems);
            QVERIFY2(back && back->changes.empty() && problems.size() == 1, splice);
        }
        JsonOutcome json = parse_json("{\"name\":\"x\",\"changes\":[{\"patch\":\"settings\",\"id\":\"" +
                                      id_text(settings_id) + "\",\"field\":\"title\",\"splice\":[390,10,\"b\"]}]}");
        expand_splices(json.root, [&](auto&&...) { return &text; });
        const auto back = read_edit(json.root);
        QVERIFY(back && back->changes.size() == 1);
        QCOMPARE(std::get<std::string>(std::get<Patch>(back->changes[0]).after), std::string(390, 'a') + "b");
    }
    void a_field_of_a_file_that_does_not_fit_is_refused_with_its_line() {
        each_field([](Kind kind, std::size_t, const FieldInfo& info, const Value& blank) {
            if (kind == Kind::Settings && info.key == "system") return;  // stands there already
            const ReadOutcome r = read_project(project(kind, "\"" + std::string(info.key) + "\": " + wrong_for(blank)));
            QVERIFY2(!r.ok && !r.problems.empty(),
                     (std::string(kind_name(kind)) + " " + std::string(info.key)).c_str());
            const ReadProblem& p = r.problems[0];
            QCOMPARE(p.line, kind == Kind::Settings ? 3 : 4);
            QVERIFY2(has(p.message, std::string(kind_name(kind))) &&
                         has(p.message, "field \"" + std::string(info.key) + "\": expected "),
                     p.message.c_str());
            const char* wanted = std::holds_alternative<double>(blank)                ? "a number"
                                 : std::holds_alternative<std::string>(blank)         ? "a text"
                                 : std::holds_alternative<int>(blank)                 ? "one of \""
                                 : std::holds_alternative<bool>(blank)                ? "true or false"
                                 : std::holds_alternative<std::uint64_t>(blank)       ? "an id of 16 hexadecimal digits"
                                 : std::holds_alternative<std::vector<double>>(blank) ? "a list of numbers"
                                                                                      : "a list of points";
            const std::string from = "expected " + std::string(wanted);
            QVERIFY2(has(p.message, from), p.message.c_str());
            QVERIFY2(has(p.message, ", found ") && p.remedy.starts_with("Write "), p.remedy.c_str());
        });
    }
    /// A reference is typed and pasted by the name of what it refers to, and shown by it.
    void a_reference_goes_by_name() {
        Project p = new_project(UnitSystem::Si);
        const auto put = [&]<class R>(R row, std::uint64_t id, const char* name) {
            row.id = id;
            if constexpr (requires { row.name; }) row.name = name;
            p.table<R>().insert(row);
        };
        put(Structure{}, 1, "S1");
        put(Structure{}, 2, "S2");
        Pipe pipe;
        pipe.from = {1};
        pipe.to = {2};
        put(pipe, 3, "");
        put(Catchment{}, 4, "Yard");
        put(Street{}, 5, "Mill Street");
        put(RainEvent{}, 6, "10 years");
        const std::map<Refers, std::vector<std::pair<const char*, std::uint64_t>>> known{
            {Refers::Structure, {{"S1", 1}, {"S2", 2}}},  {Refers::Catchment, {{"Yard", 4}}},
            {Refers::Street, {{"Mill Street", 5}}},       {Refers::Event, {{"10 years", 6}}},
            {Refers::Element, {{"S2", 2}, {"S1–S2", 3}}}, {Refers::Any, {{"S1", 1}, {"S1–S2", 3}}}};
        int asked = 0;
        each_field([&](Kind kind, std::size_t i, const FieldInfo& info, const Value& blank) {
            if (!std::holds_alternative<std::uint64_t>(blank)) return;
            ++asked;
            QVERIFY2(known.contains(info.refers_to),
                     (std::string(kind_name(kind)) + " " + std::string(info.key)).c_str());
            for (const auto& [name, id] : known.at(info.refers_to)) {
                const CellValue cell = read_cell(p, kind, 77, i, name);
                QVERIFY2(cell.ok && std::get<std::uint64_t>(cell.value) == id,
                         (std::string(info.key) + ": " + cell.error).c_str());
                Project q = p;
                const std::uint64_t row = kind == Kind::Settings ? settings_id : 77;
                with_row_type(kind, [&]<class R>(std::type_identity<R>) {
                    R r;
                    r.id = row;
                    set(r, fields_of<R>()[i], cell.value);
                    q.table<R>().insert(r);
                });
                QCOMPARE(cell_text(q, kind, row, i), std::string(name));
                QCOMPARE(value_text(q, kind, i, cell.value), std::string(name));
                QCOMPARE(value_text(q, kind, i, std::uint64_t{99}), id_text(99));
            }
            const char* other = info.refers_to == Refers::Event ? "S1" : "10 years";
            const CellValue none = read_cell(p, kind, 77, i, other);
            QVERIFY(!none.ok);
            QCOMPARE(none.error, "there is no " + std::string(refers_name(info.refers_to)) + " \"" + other + "\"");
            const CellValue empty = read_cell(p, kind, 77, i, "");
            QVERIFY(empty.ok && std::get<std::uint64_t>(empty.value) == 0);
        });
        QVERIFY(asked > 15);
    }
    void a_changed_reference_is_told_by_name() {
        Project p = new_project(UnitSystem::Si);
        Structure pond;
        pond.id = 1;
        pond.name = "P1";
        p.structures.insert(pond);
        for (const std::uint64_t id : {5, 6}) {
            RainEvent e;
            e.id = id;
            e.name = std::to_string(id) + " years";
            p.events.insert(e);
        }
        Release r;
        r.id = 9;
        r.structure = {1};
        r.event = {5};
        Editing put(p, "Allow");
        put.insert(r);
        const Edit made = put.take();
        QCOMPARE(in_words(p, made, 5), std::vector<std::string>{"new release of P1"});
        apply(p, made);
        Editing e(p, "Another event");
        e.set(Kind::Release, 9, "event", std::uint64_t{6});
        e.set(Kind::Structure, 1, "name", std::string("P2"));
        QCOMPARE(in_words(p, e.take(), 5), (std::vector<std::string>{"release of P1: Event 6 years, was 5 years",
                                                                     "structure P1: Name P2, was P1"}));
    }
    void yes_and_no_are_typed_in_words_and_lists_are_not() {
        const Project p = new_project(UnitSystem::Si);
        each_field([&](Kind kind, std::size_t i, const FieldInfo& info, const Value& blank) {
            const auto cell = [&](const char* words) { return read_cell(p, kind, 77, i, words); };
            if (std::holds_alternative<bool>(blank)) {
                for (const char* yes : {"yes", "True", "1", "x"})
                    QVERIFY(cell(yes).ok && std::get<bool>(cell(yes).value));
                for (const char* no : {"", "No", "false", "0"}) QVERIFY(cell(no).ok && !std::get<bool>(cell(no).value));
                QCOMPARE(cell("perhaps").error, std::string("\"perhaps\" is neither yes nor no"));
            } else if (std::holds_alternative<std::vector<Point>>(blank) ||
                       std::holds_alternative<std::vector<double>>(blank))
                QCOMPARE(cell("1").error, std::string(info.label) + " is a list: it is drawn, not pasted");
        });
    }
    void a_file_that_is_no_project_says_why() {
        for (const auto& [text, words] : std::vector<std::pair<std::string, std::string>>{
                 {"[1]", "expected an object, found "},
                 {"{\"a\": 1}", "no format version"},
                 {"{\"calm-culvert\": \"1\", \"settings\": {}}", "no format version"},
                 {"{\"calm-culvert\": 1.5, \"settings\": {}}", "format 1.5 is not a whole number"},
                 {"{\"calm-culvert\": 9999999999999999999999, \"settings\": {}}", "is newer than this program reads"},
                 {"{\"calm-culvert\": 0, \"settings\": {}}", "format 0 does not exist"},
                 {"{\"calm-culvert\": 2}", "no settings"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pipes\": {}}", "\"pipes\" must be a list, found "},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pipes\": [7]}", "a pipe must be an object, found "},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pipes\": [{\"size\": 1}]}", "a pipe: id is missing"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pipes\": [{\"id\": \"xyz\"}]}",
                  "id \"xyz\" is not 16 hexadecimal digits"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"structures\": [{\"id\": \"" + id_text(4) +
                      "\", \"rim\": 1e999}]}",
                  "a number is too large to be read"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"structures\": [{\"id\": \"" + id_text(4) +
                      "\"},\n{\"id\": \"" + id_text(4) + "\"}]}",
                  "is used twice (first on line 1)"}}) {
            const ReadOutcome r = read_project(text);
            QVERIFY2(!r.ok && !r.problems.empty() && has(r.problems[0].message, words),
                     (text + "\n" + (r.problems.empty() ? "" : r.problems[0].message)).c_str());
            QVERIFY(!r.problems[0].remedy.empty());
        }
        // What is only odd is said, and read.
        for (const auto& [text, words] : std::vector<std::pair<std::string, std::string>>{
                 {"{\"calm-culvert\": 2, \"settings\": {\"title\": \"a\", \"title\": \"b\"}}",
                  "field \"title\" is given twice, first on line 1"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pipes\": [],\n\"pipes\": []}",
                  "\"pipes\" is given twice, first on line 1"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"pips\": []}", "\"pips\" is no table: is \"pipes\" meant?"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"structures\": [{\"id\": \"" + id_text(4) +
                      "\", \"name\": \"M\", \"rimm\": 3}]}",
                  "structure M: \"rimm\" is no field of it: is \"rim\" meant?"},
                 {"{\"calm-culvert\": 2, \"settings\": {}, \"structures\": [{\"id\": \"" + id_text(4) +
                      "\", \"name\": \"M\", \"street\": \"" + id_text(8) + "\"}]}",
                  "structure M, field \"street\": no street has the id " + id_text(8)}}) {
            const ReadOutcome r = read_project(text);
            QVERIFY2(r.ok && r.problems.size() == 1 && has(r.problems[0].message, words),
                     (text + "\n" + (r.problems.empty() ? "" : r.problems[0].message)).c_str());
        }
    }
};

QTEST_GUILESS_MAIN(TestWrongFields)
#include "test_wrong_fields.moc"
