package dachshund.standins.business;

import dachshund.standins.plant.Lots.Lot;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Random;

/**
 * What the laboratory found of each lot, some time after it ended, in a database of its own; its times are those of the clock on
 * its wall. Limits are those of class A1 in ISO 17225-2:2021, written from memory.
 */
final class Laboratory {

    static final String DATABASE = "quillmoor_lab";
    static final ZoneId WALL = ZoneId.of("Europe/London");

    private static final String[] ANALYSTS = {"M. Okafor", "J. Reyes", "T. Lindqvist"};

    private Laboratory() {}

    static void make(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE IF NOT EXISTS " + DATABASE + ".sample (sample_no INT PRIMARY KEY AUTO_INCREMENT,"
                            + " lot_id VARCHAR(20) NOT NULL UNIQUE, line VARCHAR(8) NOT NULL, taken DATETIME NOT NULL,"
                            + " reported DATETIME NOT NULL, moisture_pct DECIMAL(4,2) NOT NULL, durability_pct DECIMAL(5,2) NOT NULL,"
                            + " fines_pct DECIMAL(4,2) NOT NULL, bulk_density_kg_m3 INT NOT NULL, ash_pct DECIMAL(4,2) NOT NULL,"
                            + " analyst VARCHAR(40) NOT NULL, remark VARCHAR(200) NULL, INDEX (taken)) AUTO_INCREMENT = 70112");
            statement.execute(
                    "CREATE TABLE IF NOT EXISTS " + DATABASE + ".quality_limit (property VARCHAR(20) PRIMARY KEY,"
                            + " least DECIMAL(6,2) NULL, greatest DECIMAL(6,2) NULL, unit VARCHAR(8) NOT NULL)");
            statement.execute("INSERT IGNORE INTO " + DATABASE + ".quality_limit VALUES ('moisture', NULL, 10, '%'),"
                    + " ('durability', 98, NULL, '%'), ('fines', NULL, 1, '%'), ('bulk density', 600, 750, 'kg/m3'),"
                    + " ('ash', NULL, 0.7, '%')");
            statement.execute("CREATE OR REPLACE VIEW " + DATABASE
                    + ".sample_outside_a1 AS SELECT sample_no, lot_id, line, taken,"
                    + " moisture_pct, durability_pct, fines_pct, bulk_density_kg_m3, ash_pct FROM " + DATABASE
                    + ".sample WHERE moisture_pct > 10 OR durability_pct < 98 OR fines_pct > 1"
                    + " OR bulk_density_kg_m3 NOT BETWEEN 600 AND 750 OR ash_pct > 0.7");
        }
    }

    /** When it reports on a lot: after an hour or so, now and then much later. */
    static Instant reports(Lot lot) {
        Random chance = new Random(lot.id().hashCode() * 31L);
        Duration late = chance.nextInt(15) == 0
                ? Duration.ofMinutes(300 + chance.nextInt(120))
                : Duration.ofMinutes(25 + chance.nextInt(85));
        return lot.ended().plus(late);
    }

    static void report(Connection connection, Lot lot) throws SQLException {
        Random chance = new Random(lot.id().hashCode() * 17L);
        double dry = chance.nextGaussian();
        try (PreparedStatement insert = connection.prepareStatement("INSERT IGNORE INTO " + DATABASE
                + ".sample (lot_id, line, taken, reported, moisture_pct, durability_pct, fines_pct, bulk_density_kg_m3,"
                + " ash_pct, analyst, remark) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")) {
            insert.setString(1, lot.id());
            insert.setString(2, lot.line());
            insert.setObject(3, wall(lot.ended().minusSeconds(60L * (5 + chance.nextInt(15)))));
            insert.setObject(4, wall(reports(lot)));
            insert.setDouble(5, rounded(7.4 + 0.9 * dry));
            insert.setDouble(6, rounded(98.6 - 0.15 * dry + 0.25 * chance.nextGaussian()));
            insert.setDouble(7, rounded(Math.max(0.1, 0.55 + 0.2 * chance.nextGaussian())));
            insert.setInt(8, (int) Math.round(668 + 14 * chance.nextGaussian()));
            insert.setDouble(9, rounded(Math.max(0.2, 0.48 + 0.07 * chance.nextGaussian())));
            insert.setString(10, ANALYSTS[chance.nextInt(ANALYSTS.length)]);
            insert.setString(11, chance.nextInt(12) == 0 ? "Sample taken again" : null);
            insert.executeUpdate();
        }
    }

    private static double rounded(double value) {
        return Math.round(value * 100) / 100.0;
    }

    private static LocalDateTime wall(Instant at) {
        return LocalDateTime.ofInstant(at, WALL).withNano(0);
    }
}
