package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.standins.business.Business;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/**
 * The demo's *Laboratory release* decides as the limits of class A1 in ISO 17225-2:2021, table 1, say, whichever property is on
 * its limit or just beyond: moisture 10 % at most, mechanical durability 98.0 % at least, fines 1.0 % at most, bulk density 600
 * to 750 kg/m³, ash 0.7 % at most. The limits are written here a second time, from memory of the standard.
 */
class LaboratoryReleaseTest {

    private static final Site SITE = Site.demo();

    /** A sample, and how many of its properties are outside. */
    private record Sample(
            String lot, String moisture, String durability, String fines, int density, String ash, int outside) {}

    private static Stream<Sample> samples() {
        return Stream.of(
                new Sample("A1-usual", "7.40", "98.60", "0.55", 668, "0.48", 0),
                new Sample("A1-low", "10.00", "98.00", "1.00", 600, "0.70", 0),
                new Sample("A1-high", "10.00", "98.00", "1.00", 750, "0.70", 0),
                new Sample("A1-wet", "10.01", "98.00", "1.00", 600, "0.70", 1),
                new Sample("A1-soft", "10.00", "97.99", "1.00", 600, "0.70", 1),
                new Sample("A1-dusty", "10.00", "98.00", "1.01", 600, "0.70", 1),
                new Sample("A1-light", "10.00", "98.00", "1.00", 599, "0.70", 1),
                new Sample("A1-dense", "10.00", "98.00", "1.00", 751, "0.70", 1),
                new Sample("A1-ashen", "10.00", "98.00", "1.00", 750, "0.71", 1),
                new Sample("A1-worst", "12.00", "90.00", "3.00", 500, "2.00", 5));
    }

    @BeforeAll
    static void laboratory() throws Exception {
        try (Business business = new Business("127.0.0.1:" + SITE.database.port(), "root", "")) {
            business.work(Instant.now());
        }
    }

    private static Map<String, String> decided() throws Exception {
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "SELECT lot_id, verdict, outside FROM lot_release WHERE lot_id LIKE 'A1-%'")) {
            Map<String, String> all = new HashMap<>();
            while (rows.next()) {
                all.put(rows.getString(1), rows.getString(2) + " " + rows.getInt(3));
            }
            return all;
        }
    }

    private static void report(Sample sample) throws Exception {
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_lab"));
                PreparedStatement insert = connection.prepareStatement(
                        "INSERT INTO sample (lot_id, line, taken, reported, moisture_pct, durability_pct, fines_pct, bulk_density_kg_m3, ash_pct, analyst) VALUES (?, 'PL1', UTC_TIMESTAMP(), UTC_TIMESTAMP(), ?, ?, ?, ?, ?, 'M. Okafor')")) {
            insert.setString(1, sample.lot());
            insert.setString(2, sample.moisture());
            insert.setString(3, sample.durability());
            insert.setString(4, sample.fines());
            insert.setInt(5, sample.density());
            insert.setString(6, sample.ash());
            insert.executeUpdate();
        }
    }

    @Test
    void aLotIsReleasedUpToTheLimitsOfClassA1AndBlockedBeyond() throws Exception {
        // It takes rows that came after it began to look: one that is taken shows that it does.
        int[] tried = {0};
        soon(() -> {
            report(new Sample("A1-first-" + tried[0]++, "7.40", "98.60", "0.55", 668, "0.48", 0));
            Thread.sleep(1000);
            return !decided().isEmpty();
        });
        for (Sample sample : samples().toList()) {
            report(sample);
        }
        Map<String, String> meant = new HashMap<>();
        samples()
                .forEach(each ->
                        meant.put(each.lot(), (each.outside() == 0 ? "released " : "blocked ") + each.outside()));
        soon(() -> decided().keySet().containsAll(meant.keySet()));
        assertThat(decided()).containsAllEntriesOf(meant);
    }
}
