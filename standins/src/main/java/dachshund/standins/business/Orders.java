package dachshund.standins.business;

import dachshund.standins.plant.Lots.Lot;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Random;

/** Orders of pellets and the lots that were made for them, in a database of their own; its times are UTC. */
final class Orders {

    static final String DATABASE = "quillmoor_orders";
    private static final int BAG = 15;

    private Orders() {}

    static void make(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE IF NOT EXISTS " + DATABASE + ".product (product_code VARCHAR(12) PRIMARY KEY,"
                            + " description VARCHAR(80) NOT NULL, bag_kg INT NOT NULL)");
            statement.execute(
                    "CREATE TABLE IF NOT EXISTS " + DATABASE + ".pellet_order (order_no INT PRIMARY KEY AUTO_INCREMENT,"
                            + " product_code VARCHAR(12) NOT NULL, line VARCHAR(8) NOT NULL, bags_wanted INT NOT NULL,"
                            + " customer_ref VARCHAR(20) NULL, started DATETIME NOT NULL, completed DATETIME NULL,"
                            + " FOREIGN KEY (product_code) REFERENCES " + DATABASE + ".product (product_code))"
                            + " AUTO_INCREMENT = 26041");
            statement.execute("CREATE TABLE IF NOT EXISTS " + DATABASE + ".order_lot (lot_id VARCHAR(20) PRIMARY KEY,"
                    + " order_no INT NOT NULL, line VARCHAR(8) NOT NULL, begun DATETIME NOT NULL, ended DATETIME NOT NULL,"
                    + " pellets_kg INT NOT NULL, FOREIGN KEY (order_no) REFERENCES " + DATABASE
                    + ".pellet_order (order_no))");
            statement.execute(
                    "INSERT IGNORE INTO " + DATABASE
                            + ".product VALUES ('WP6-15', 'Wood pellets 6 mm, bag of 15 kg', 15),"
                            + " ('WP8-15', 'Wood pellets 8 mm, bag of 15 kg', 15), ('WP6-BB', 'Wood pellets 6 mm, big bag', 1000)");
            statement.execute("CREATE TABLE IF NOT EXISTS " + DATABASE
                    + ".haulage (plate VARCHAR(12) PRIMARY KEY, supplier VARCHAR(40) NOT NULL, material VARCHAR(30) NOT NULL,"
                    + " empty_kg INT NOT NULL)");
            statement.execute("INSERT IGNORE INTO " + DATABASE
                    + ".haulage VALUES ('QM 101', 'Quillmoor Sawmill', 'spruce chips', 14200),"
                    + " ('QM 102', 'Quillmoor Sawmill', 'spruce chips', 14350), ('QM 117', 'Quillmoor Sawmill', 'shavings', 13900),"
                    + " ('HB 2204', 'Harbour Timber', 'pine chips', 15100), ('HB 2219', 'Harbour Timber', 'pine chips', 15080),"
                    + " ('KL 73', 'Kettle Lane Joinery', 'shavings', 12800), ('KL 78', 'Kettle Lane Joinery', 'dry dust', 12950),"
                    + " ('RN 5001', 'Rannock Estate', 'round wood', 16020), ('RN 5014', 'Rannock Estate', 'round wood', 15990),"
                    + " ('TS 640', 'Tarn Side Forestry', 'spruce chips', 14600)");
        }
    }

    /** A lot goes to the order that its line works on; with enough of them the order is complete. */
    static void take(Connection connection, Lot lot) throws SQLException {
        Random chance = new Random(lot.id().hashCode());
        int order = 0;
        try (PreparedStatement open = connection.prepareStatement(
                "SELECT order_no FROM " + DATABASE + ".pellet_order WHERE line = ? AND completed IS NULL")) {
            open.setString(1, lot.line());
            try (ResultSet row = open.executeQuery()) {
                order = row.next() ? row.getInt(1) : begin(connection, lot, chance);
            }
        }
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT IGNORE INTO " + DATABASE + ".order_lot VALUES (?, ?, ?, ?, ?, ?)")) {
            insert.setString(1, lot.id());
            insert.setInt(2, order);
            insert.setString(3, lot.line());
            insert.setObject(4, utc(lot.begun()));
            insert.setObject(5, utc(lot.ended()));
            insert.setLong(6, lot.kilograms());
            insert.executeUpdate();
        }
        try (PreparedStatement complete = connection.prepareStatement("UPDATE " + DATABASE
                + ".pellet_order SET completed = ? WHERE order_no = ? AND (SELECT SUM(pellets_kg) FROM " + DATABASE
                + ".order_lot AS made WHERE made.order_no = pellet_order.order_no) >= bags_wanted * " + BAG)) {
            complete.setObject(1, utc(lot.ended()));
            complete.setInt(2, order);
            complete.executeUpdate();
        }
    }

    private static int begin(Connection connection, Lot lot, Random chance) throws SQLException {
        try (PreparedStatement insert = connection.prepareStatement(
                "INSERT INTO " + DATABASE + ".pellet_order (product_code, line, bags_wanted, customer_ref, started)"
                        + " VALUES (?, ?, ?, ?, ?)",
                Statement.RETURN_GENERATED_KEYS)) {
            insert.setString(1, lot.line().equals("PL3") ? "WP8-15" : "WP6-15");
            insert.setString(2, lot.line());
            insert.setInt(3, 600 + 100 * chance.nextInt(10));
            insert.setString(4, chance.nextInt(3) == 0 ? null : "C-" + (4000 + chance.nextInt(900)));
            insert.setObject(5, utc(lot.begun()));
            insert.executeUpdate();
            try (ResultSet key = insert.getGeneratedKeys()) {
                key.next();
                return key.getInt(1);
            }
        }
    }

    private static LocalDateTime utc(Instant at) {
        return LocalDateTime.ofInstant(at, ZoneOffset.UTC).withNano(0);
    }
}
