package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.reach.Outside;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Duration;
import java.util.Optional;
import java.util.Properties;

/** What engines that are servers have in common: how they are reached. */
public abstract class ServerEngine implements JdbcEngine {

    protected final Dialect dialect;
    protected final ServerSettings settings;
    protected final Outside outside;
    /** Whether it is beside the destination's own database: where it is missing, that is the trouble of its tables alone. */
    protected final boolean beside;

    protected ServerEngine(Dialect dialect, ServerSettings settings, Outside outside, boolean beside) {
        this.dialect = dialect;
        this.settings = settings;
        this.outside = outside;
        this.beside = beside;
    }

    /** The driver's address of a database of the server. */
    protected abstract String url(String database);

    /** The database from within which another is made; empty for none. */
    protected abstract String serverDatabase();

    /** What the driver is told, without the log-in. */
    protected abstract Properties properties(Duration connectWithin);

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public String database() {
        return settings.database();
    }

    @Override
    public String place() {
        return settings.place();
    }

    /** Tells the driver that the same few statements are sent again and again. */
    protected void remember(Properties properties) {
        // What a driver does by itself is enough.
    }

    @Override
    public HikariConfig pool() {
        return pool(properties(settings.connectWithin()));
    }

    @Override
    public HikariConfig poolOfFewStatements() {
        Properties login = properties(settings.connectWithin());
        remember(login);
        return pool(login);
    }

    private HikariConfig pool(Properties login) {
        HikariConfig config = settings.pool();
        login.setProperty("user", settings.user());
        login.setProperty("password", settings.password());
        config.setDataSource(new CheckedSource(url(database()), login, () -> check(database())));
        return config;
    }

    @Override
    public boolean writesAtOnce() {
        return true;
    }

    @Override
    public Connection connect(Duration limit) throws SQLException {
        return connect(database(), limit);
    }

    @Override
    public Optional<Connection> connectServer() throws SQLException {
        return Optional.of(connect(serverDatabase(), settings.connectWithin()));
    }

    @Override
    public void mayReach(String other) throws SQLException {
        check(other);
    }

    /** Right before each connection: names come from rows, too, and the list of what is allowed changes. */
    private void check(String database) throws SQLException {
        String problem = database.isEmpty() ? "" : ServerSettings.database(database);
        if (!problem.isEmpty()) {
            throw new RefusedPlace(problem, beside);
        }
        try {
            outside.check(settings.host(), Integer.parseInt(settings.port()), database);
        } catch (Outside.Refused refused) {
            throw new RefusedPlace(refused.getMessage(), beside);
        }
    }

    private Connection connect(String database, Duration limit) throws SQLException {
        check(settings.database());
        check(database);
        Properties login = properties(limit);
        login.setProperty("user", settings.user());
        login.setProperty("password", settings.password());
        return DriverManager.getConnection(url(database), login);
    }
}
