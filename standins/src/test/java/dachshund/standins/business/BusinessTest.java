package dachshund.standins.business;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.plant.Lots;
import dachshund.standins.plant.Lots.Lot;
import dachshund.standins.plant.PelletWorks;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

class BusinessTest {

    private static final Instant FROM = Instant.parse("2026-11-20T00:00:00Z");
    private static final Duration LONGEST_REPORT = Duration.ofHours(8);

    @Test
    void eachLotIsBookedAndReportedOnceThoughTheServerGoesAwayMeanwhile() throws Exception {
        PelletWorks plant = new PelletWorks(7, FROM);
        Lots lots = new Lots(plant);
        List<Lot> ended = new ArrayList<>();
        while (plant.now().isBefore(FROM.plus(Duration.ofHours(12)))) {
            plant.runTo(plant.now().plusSeconds(10));
            ended.addAll(lots.ended(plant.now()));
        }
        assertThat(ended).hasSizeGreaterThan(15).allMatch(lot -> lot.kilograms() > 0);
        try (PrivateMariaDb server = new PrivateMariaDb();
                Business business =
                        new Business("127.0.0.1:" + server.port(), "quillmoor_office", "quillmoor-office-demo")) {
            int half = ended.size() / 2;
            business.take(ended.subList(0, half));
            business.work(ended.get(half).ended());
            server.kill();
            business.take(ended.subList(half, ended.size()));
            assertThatThrownBy(() -> business.work(plant.now())).isInstanceOf(SQLException.class);
            server.start();
            business.work(plant.now());
            long later = number(server, "SELECT COUNT(*) FROM quillmoor_lab.sample");
            assertThat(later).isLessThan(ended.size());
            business.work(plant.now().plus(LONGEST_REPORT));
            assertThat(number(server, "SELECT COUNT(*) FROM quillmoor_orders.order_lot"))
                    .isEqualTo(ended.size());
            assertThat(number(server, "SELECT SUM(pellets_kg) FROM quillmoor_orders.order_lot"))
                    .isEqualTo(ended.stream().mapToLong(Lot::kilograms).sum());
            assertThat(number(server, "SELECT COUNT(*) FROM quillmoor_orders.pellet_order WHERE completed IS NOT NULL"))
                    .isPositive();
            assertThat(number(
                            server,
                            "SELECT COUNT(*) FROM quillmoor_lab.sample JOIN quillmoor_orders.order_lot USING (lot_id)"))
                    .isEqualTo(ended.size());
        }
    }

    @Test
    void whoReadsMayNotWrite() throws Exception {
        try (PrivateMariaDb server = new PrivateMariaDb();
                Business business =
                        new Business("127.0.0.1:" + server.port(), "quillmoor_office", "quillmoor-office-demo")) {
            business.work(FROM);
            try (Connection reader = DriverManager.getConnection(
                            "jdbc:mariadb://127.0.0.1:" + server.port() + "/quillmoor_lab",
                            "quillmoor_reader",
                            "quillmoor-reader-demo");
                    Statement statement = reader.createStatement()) {
                assertThat(statement.executeQuery("SELECT * FROM quality_limit").next())
                        .isTrue();
                assertThatThrownBy(() -> statement.execute("DELETE FROM quality_limit"))
                        .isInstanceOf(SQLException.class);
            }
        }
    }

    private static long number(PrivateMariaDb server, String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(""));
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }
}
