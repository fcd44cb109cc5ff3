package dachshund.links.jdbc;

import java.io.PrintWriter;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.util.Properties;
import java.util.logging.Logger;
import javax.sql.DataSource;

/** Connections of a driver, each made only after it was asked whether it may be made. */
public final class CheckedSource implements DataSource {

    private final String url;
    private final Properties login;
    private final Check check;

    /** Throws, where no connection may be made. */
    public interface Check {
        void now() throws SQLException;
    }

    public CheckedSource(String url, Properties login, Check check) {
        this.url = url;
        this.login = login;
        this.check = check;
    }

    @Override
    public Connection getConnection() throws SQLException {
        check.now();
        return DriverManager.getConnection(url, login);
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return getConnection();
    }

    @Override
    public PrintWriter getLogWriter() {
        return null;
    }

    @Override
    public void setLogWriter(PrintWriter out) {
        // drivers of today log nothing there
    }

    @Override
    public void setLoginTimeout(int seconds) {
        // the driver has it among its properties
    }

    @Override
    public int getLoginTimeout() {
        return 0;
    }

    @Override
    public Logger getParentLogger() throws SQLFeatureNotSupportedException {
        throw new SQLFeatureNotSupportedException();
    }

    @Override
    public <T> T unwrap(Class<T> type) throws SQLException {
        throw new SQLFeatureNotSupportedException();
    }

    @Override
    public boolean isWrapperFor(Class<?> type) {
        return false;
    }
}
