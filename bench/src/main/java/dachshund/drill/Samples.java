package dachshund.drill;

import dachshund.standins.mariadb.PrivateMariaDb;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Random;

/** A sample of each lot, reported to the laboratory's table while all else goes on; in the end each lot has its verdict, once. */
final class Samples {

    private static final int SETTLED_SECONDS = 120;

    private final PrivateMariaDb database;
    private final Random random;
    /** Each lot that was reported, with how many of its properties are outside the limits. */
    private final Map<String, Integer> reported = new LinkedHashMap<>();

    Samples(PrivateMariaDb database, Random random) {
        this.database = database;
        this.random = random;
    }

    /** Reports on those that were not yet. */
    void report(Collection<String> lots) throws SQLException {
        try (Connection connection = DriverManager.getConnection(database.url("quillmoor_lab"));
                PreparedStatement insert = connection.prepareStatement(
                        "INSERT INTO sample (lot_id, line, taken, reported, moisture_pct, durability_pct, fines_pct, bulk_density_kg_m3, ash_pct, analyst) VALUES (?, 'PL1', UTC_TIMESTAMP(), UTC_TIMESTAMP(), ?, ?, 0.5, ?, 0.5, 'J. Reyes')")) {
            for (String lot : lots) {
                if (reported.containsKey(lot)) {
                    continue;
                }
                boolean wet = random.nextInt(4) == 0;
                boolean soft = random.nextInt(4) == 0;
                boolean light = random.nextInt(4) == 0;
                insert.setString(1, lot);
                insert.setString(2, wet ? "10.01" : "10.00");
                insert.setString(3, soft ? "97.99" : "98.00");
                insert.setInt(4, light ? 599 : 600);
                insert.executeUpdate();
                reported.put(lot, (wet ? 1 : 0) + (soft ? 1 : 0) + (light ? 1 : 0));
            }
        }
    }

    /** @return whether each lot has the verdict that its sample asks for */
    boolean account() throws SQLException, InterruptedException {
        Map<String, String> decided = decided();
        for (int tried = 0; !decided.keySet().containsAll(reported.keySet()) && tried < SETTLED_SECONDS; tried++) {
            Thread.sleep(1000);
            decided = decided();
        }
        int wrong = 0;
        for (Map.Entry<String, Integer> each : reported.entrySet()) {
            String meant = (each.getValue() == 0 ? "released " : "blocked ") + each.getValue();
            if (!meant.equals(decided.get(each.getKey()))) {
                wrong++;
                System.out.println(
                        "lot " + each.getKey() + " is to be " + meant + ", and is " + decided.get(each.getKey()));
            }
        }
        System.out.printf(
                "%d samples reported, %d lots decided as they say%n", reported.size(), reported.size() - wrong);
        return wrong == 0;
    }

    private Map<String, String> decided() throws SQLException {
        Map<String, String> all = new LinkedHashMap<>();
        try (Connection connection = DriverManager.getConnection(database.url("quillmoor_records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT lot_id, verdict, outside FROM lot_release")) {
            while (rows.next()) {
                all.put(rows.getString(1), rows.getString(2) + " " + rows.getInt(3));
            }
        }
        return all;
    }
}
