package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.office.definition.Definitions;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/**
 * The demo's *Bags of a lot* judges as OIML R 87 says of packages of one nominal quantity: the tolerable deficiencies of its table 1,
 * and the three rules: the mean is no less than the nominal quantity, at most 2.5 % of the packages lack more than the tolerable
 * deficiency, none lacks more than twice of it. Written here a second time, from memory of the recommendation.
 */
class PackageRulesTest {

    private static final Site SITE = Site.demo();
    private static final String BAGS =
            "CREATE TABLE IF NOT EXISTS bag (record_time DATETIME(3), row_id VARCHAR(40), bag_count INT, lot_id VARCHAR(255), last_bag DOUBLE)";

    private static Connection records() throws SQLException {
        return DriverManager.getConnection(SITE.database.url("quillmoor_records"));
    }

    /** What 1 kg may lack is 15 g, what 15 kg may lack 150 g, and so on, at both ends of each line of the table. */
    @Test
    void whatAPackageMayLackIsThatOfThePublishedTable() throws Exception {
        Map<Integer, String> published = new HashMap<>();
        published.put(5, "0.45");
        published.put(50, "4.5");
        published.put(51, "4.5");
        published.put(100, "4.5");
        published.put(101, "4.545");
        published.put(200, "9");
        published.put(201, "9");
        published.put(300, "9");
        published.put(301, "9.03");
        published.put(500, "15");
        published.put(501, "15");
        published.put(1000, "15");
        published.put(1001, "15.015");
        published.put(10_000, "150");
        published.put(10_001, "150");
        published.put(15_000, "150");
        published.put(15_001, "150.01");
        published.put(50_000, "500");
        String asked = SITE.bean(Definitions.class).drafted().stream()
                .filter(each -> each.name().equals("Bags of a lot"))
                .map(TransactionDefinition.class::cast)
                .flatMap(each -> each.steps().stream())
                .filter(Step.LookUp.class::isInstance)
                .map(step -> ((Step.LookUp) step).sql())
                .findFirst()
                .orElseThrow()
                .replace(":nominal_g", "?");
        try (Connection connection = records();
                PreparedStatement statement = connection.prepareStatement(asked)) {
            for (Map.Entry<Integer, String> each : published.entrySet()) {
                for (int i = 1; i <= 3; i++) {
                    statement.setInt(i, each.getKey());
                }
                try (ResultSet rows = statement.executeQuery()) {
                    assertThat(rows.next()).as("%d g", each.getKey()).isTrue();
                    assertThat(rows.getBigDecimal(1))
                            .as("%d g", each.getKey())
                            .isEqualByComparingTo(new BigDecimal(each.getValue()));
                    assertThat(rows.next()).isFalse();
                }
            }
        }
    }

    /** So many bags of each weight. */
    private static List<Integer> bags(int... countsAndGrams) {
        List<Integer> all = new ArrayList<>();
        for (int i = 0; i < countsAndGrams.length; i += 2) {
            all.addAll(Collections.nCopies(countsAndGrams[i], countsAndGrams[i + 1]));
        }
        return all;
    }

    private static void bagged(String lot, List<Integer> grams) throws SQLException {
        try (Connection connection = records();
                Statement make = connection.createStatement();
                PreparedStatement bag = connection.prepareStatement(
                        "INSERT INTO bag (record_time, row_id, bag_count, lot_id, last_bag) VALUES (UTC_TIMESTAMP(3), ?, ?, ?, ?)");
                PreparedStatement end = connection.prepareStatement(
                        "INSERT INTO lot_record (lot_id, line, ended) VALUES (?, 'PL1', UTC_TIMESTAMP(3))")) {
            make.execute(BAGS);
            for (int i = 0; i < grams.size(); i++) {
                bag.setString(1, lot + " " + i);
                bag.setInt(2, i);
                bag.setString(3, lot);
                bag.setInt(4, grams.get(i));
                bag.addBatch();
            }
            bag.executeBatch();
            end.setString(1, lot);
            end.executeUpdate();
        }
    }

    private static Map<String, String> judged() throws SQLException {
        try (Connection connection = records();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "SELECT lot_id, bags, below, far_below, verdict FROM lot_bags WHERE lot_id LIKE 'R87-%'")) {
            Map<String, String> all = new HashMap<>();
            while (rows.next()) {
                all.put(
                        rows.getString(1),
                        rows.getInt(2) + " " + rows.getInt(3) + " " + rows.getInt(4) + " " + rows.getString(5));
            }
            return all;
        }
    }

    @Test
    void theBagsOfALotAreJudgedByTheirMeanAndByThoseThatLackTooMuch() throws Exception {
        // It takes rows that came after it began to look: one that is taken shows that it does.
        int[] tried = {0};
        soon(() -> {
            bagged("R87-first-" + tried[0]++, bags(40, 15_060));
            Thread.sleep(4000);
            return !judged().isEmpty();
        });
        // It is begun two rounds of four before the last.
        bagged("R87-none", List.of());
        bagged("R87-good", bags(80, 15_060));
        bagged("R87-mean", bags(40, 15_000, 20, 14_990, 20, 15_010));
        bagged("R87-light", bags(40, 15_000, 21, 14_990, 19, 15_010));
        bagged("R87-edge", bags(78, 15_060, 2, 14_850));
        bagged("R87-two", bags(78, 15_060, 2, 14_849));
        bagged("R87-three", bags(77, 15_060, 3, 14_849));
        bagged("R87-far", bags(79, 15_060, 1, 14_699));
        bagged("R87-near", bags(79, 15_060, 1, 14_700));
        bagged("R87-last", bags(1, 15_000));
        soon(() -> judged().keySet()
                .containsAll(List.of(
                        "R87-good",
                        "R87-mean",
                        "R87-light",
                        "R87-edge",
                        "R87-two",
                        "R87-three",
                        "R87-far",
                        "R87-near",
                        "R87-last")));
        assertThat(judged())
                .containsEntry("R87-good", "80 0 0 keeps the rules")
                .containsEntry("R87-mean", "80 0 0 keeps the rules")
                .containsEntry("R87-light", "80 0 0 breaks the rules")
                .containsEntry("R87-edge", "80 0 0 keeps the rules")
                .containsEntry("R87-two", "80 2 0 keeps the rules")
                .containsEntry("R87-three", "80 3 0 breaks the rules")
                .containsEntry("R87-far", "80 1 1 breaks the rules")
                .containsEntry("R87-near", "80 1 0 keeps the rules")
                .containsEntry("R87-last", "1 0 0 keeps the rules")
                .doesNotContainKey("R87-none");
    }
}
