// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <nlohmann/json.hpp>

#include "app/window/main_window.h"
#include "core/review/rules.h"
#include "report/tables.h"

using namespace culvert;
using namespace culvert::app;

/// A result and a rule that are added to their catalogues alone are seen everywhere: ledger, plan colours with legend,
/// tooltip, profile table, card, command-line table and JSON; findings, verdicts and the rail. No view names them.
class TestCatalogue : public QObject {
    Q_OBJECT
    Document document_;
    std::unique_ptr<MainWindow> window_;
    Rule rule_{};

    static double on_link(const EventResult&, std::size_t link) { return 0.25 + static_cast<double>(link % 2); }
    static double on_node(const EventResult&, std::size_t) { return 7.5; }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test");
        add_result_field({"wobble",
                          "Wobble",
                          "wobble",
                          Quantity::Ratio,
                          ResultOn::Link,
                          Stage::Pipes,
                          in_ledger | in_table | in_profile | in_tip,
                          on_link,
                          "An invented result",
                          {{0.5, 1.0, 2.0}}});
        add_result_field({"sway", "Sway", "sway", Quantity::Length, ResultOn::Node, Stage::Levels,
                          in_ledger | in_table | in_tip, on_node, "An invented result of structures"});
        RuleInfo info;
        info.name = "wobbles too much";
        info.near = "near the most wobble";
        info.stage = Stage::Rain;  // where nothing else is beyond a limit
        info.on = ResultOn::Link;
        info.label = "Wobble";
        info.quantity = Quantity::Ratio;
        info.held = [](const Subject& s) { return HeldValue{on_link(s.result, s.index)}; };
        info.limit = [](const Subject&) { return 1.0; };
        info.remedy = "Hold it still below {limit}.";
        rule_ = add_rule(info);
        window_ = std::make_unique<MainWindow>(document_);
        window_->show();
        document_.open(MainWindow::example("alder-quay"), false);
        QTRY_VERIFY(document_.current() && !document_.all_results().empty());
    }
    void cleanupTestCase() { window_.reset(); }

    void the_ledger_has_a_column() {
        window_->drawer()->ledger()->show_kind(Kind::Pipe);
        const LedgerModel* model = window_->drawer()->ledger()->findChild<LedgerModel*>();
        QVERIFY(model);
        int found = -1;
        for (int c = 0; c < model->columnCount(); ++c)
            if (model->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString() == "Wobble") found = c;
        QVERIFY(found >= 0);
        const double value = model->data(model->index(0, found), Qt::UserRole).toDouble();
        QVERIFY(value == 0.25 || value == 1.25);
    }
    void the_plan_colours_by_it_with_a_legend_and_says_it() {
        QAction* action = window_->actions().find("colour.wobble");
        QVERIFY(action);
        action->trigger();
        window_->grab();
        QCOMPARE(window_->plan()->plan_theme().colour, QString("wobble"));
        QVERIFY(window_->plan()->legend().join(' ').contains("wobble"));
        QVERIFY(window_->plan()->legend().contains("> 1.00"));
        const Pipe& pipe = *document_.project().pipes.begin();
        QVERIFY(window_->plan()->tip_of({Kind::Pipe, pipe.id}).contains("Wobble"));
        QVERIFY(window_->plan()->tip_of({Kind::Structure, pipe.from.value}).contains("Sway"));
        QVERIFY(!window_->actions().find("colour.sway"));  // it has no classes
    }
    void the_profile_table_has_a_row() {
        window_->rail()->set_stage(Stage::Levels);
        window_->grab();
        QVERIFY(window_->profile()->table_heads().contains("wobble"));
        const auto& cells = window_->profile()->cells();
        QVERIFY(std::any_of(cells.begin(), cells.end(),
                            [](const auto& c) { return c.first == "0.25" || c.first == "1.25"; }));
    }
    void tables_and_json_have_it() {
        const auto r = document_.result();
        const TextTable pipes = pipe_table(document_.project(), *r),
                        structures = structure_table(document_.project(), *r);
        QVERIFY(std::find(pipes.heads.begin(), pipes.heads.end(), "wobble") != pipes.heads.end());
        QVERIFY(std::find(structures.heads.begin(), structures.heads.end(), "sway") != structures.heads.end());
        const auto json = result_json(document_.project(), *r);
        QVERIFY(json["pipes"][0].contains("wobble"));
        QCOMPARE(json["structures"][0]["sway"].get<double>(), 7.5);
    }
    void the_rule_makes_findings_verdicts_and_counts() {
        const auto review = document_.review();
        std::size_t count = 0;
        Finding one;
        for (const Finding& f : review->findings)
            if (f.check.rule == rule_) {
                count += f.check.verdict == Verdict::Beyond;
                one = f;
            }
        QCOMPARE(count, document_.project().pipes.size() / 2);
        word(document_.project(), *document_.result(), one);
        QCOMPARE(one.title, std::string("wobbles too much"));
        QCOMPARE(one.detail, std::string("1.25, at most 1.00: 0.25 above"));
        QCOMPARE(one.remedy, std::string("Hold it still below 1.00."));
        QCOMPARE(window_->rail()->findings(Stage::Rain), static_cast<int>(count));
        const CheckList checks = checks_of(LimitTable(document_.project()), *document_.result(), one.element);
        QVERIFY(std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.rule == rule_; }));
    }
    void the_catalogue_lists_each_key_once_and_says_what_it_is() {
        for (const ResultOn on : {ResultOn::Link, ResultOn::Node}) {
            std::set<std::string_view> keys;
            for (const ResultField& f : result_fields(on)) {
                QVERIFY2(keys.insert(f.key).second, f.key.data());
                QVERIFY(!f.label.empty() && !f.head.empty() && !f.help.empty() && f.value);
                if (!f.classes.empty())
                    QVERIFY(f.classes.bounds[0] < f.classes.bounds[1] && f.classes.bounds[1] < f.classes.bounds[2]);
            }
        }
        for (const RuleInfo& r : rules()) {
            QCOMPARE(rule_info(r.rule).name, r.name);
            if (r.held) QVERIFY2(!r.remedy.empty(), r.name.data());
        }
    }
};

QTEST_MAIN(TestCatalogue)
#include "test_catalogue.moc"
