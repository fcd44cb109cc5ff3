package dachshund.links.jdbc;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.source.LinkTest;
import dachshund.links.network.UnknownAuthority;
import java.io.IOException;
import java.net.UnknownHostException;
import java.sql.SQLException;
import java.sql.SQLNonTransientConnectionException;
import java.sql.SQLRecoverableException;
import java.sql.SQLTimeoutException;
import java.sql.SQLTransientConnectionException;
import java.util.Optional;

/** Turns errors of a driver into problems with a sentence. */
public final class JdbcProblems {

    private final JdbcEngine engine;

    JdbcProblems(JdbcEngine engine) {
        this.engine = engine;
    }

    /** Every connection that we may have is at work: the database is there, its turn comes. */
    static final class AllInUse extends SQLException {
        private static final long serialVersionUID = 1;

        AllInUse(int connections, String place, SQLException cause) {
            super("All " + connections + " connections to " + place + " are in use by other rows or readers.", cause);
        }
    }

    StoreProblem problem(int batch, SQLException e) {
        if (e instanceof AllInUse) {
            return new StoreProblem(Kind.BUSY, batch, e.getMessage(), e);
        }
        SQLException told = telling(e);
        if (told instanceof RefusedPlace refused) {
            return new StoreProblem(refused.beside() ? Kind.TABLE : Kind.AWAY, -1, refused.getMessage(), e);
        }
        Kind kind = engine.kind(told);
        return new StoreProblem(kind, kind == Kind.AWAY ? -1 : batch, sentence(told, kind), e);
    }

    /** Whether it is the connection that says so, and not the statement: nobody can be served now. */
    public static boolean ofConnection(SQLException e) {
        String state = e.getSQLState() == null ? "" : e.getSQLState();
        if (state.startsWith("08")
                || e instanceof SQLTransientConnectionException
                || e instanceof SQLNonTransientConnectionException
                || e instanceof SQLRecoverableException
                || e instanceof SQLTimeoutException) {
            return true;
        }
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof IOException) {
                return true;
            }
        }
        return false;
    }

    LinkTest failed(SQLException e) {
        boolean overTls = TlsWords.sentence(telling(e), engine.place()).isPresent();
        return LinkTest.failed(problem(-1, e).getMessage(), overTls ? "tls" : engine.field(telling(e)))
                .showing(UnknownAuthority.in(e).map(UnknownAuthority::pem).orElse(""));
    }

    /**
     * The driver and the pool wrap the database's own error, and a batch wraps it beside its own; the innermost or next
     * SQLException that carries a code or a state is the one that tells.
     */
    private static SQLException telling(SQLException e) {
        SQLException best = e;
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof SQLException sql) {
                best = sql.getErrorCode() > 0 || sql.getSQLState() != null ? sql : best;
                SQLException next = sql.getNextException();
                best = next != null && next.getSQLState() != null && best instanceof java.sql.BatchUpdateException
                        ? next
                        : best;
            }
        }
        return best;
    }

    private String sentence(SQLException e, Kind kind) {
        String place = engine.place();
        Optional<String> overTls = TlsWords.sentence(e, place);
        if (overTls.isPresent()) {
            return overTls.get();
        }
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof UnknownHostException) {
                return "There is no host named " + place.substring(0, place.lastIndexOf(':'))
                        + ". Compare the name with the server's, or use its IP address.";
            }
            if (each instanceof java.net.ConnectException) {
                return "The host is there, but refuses " + place + ". Is the database running, and is that its port?";
            }
            if (each instanceof java.net.SocketTimeoutException) {
                return "Nothing answered at " + place
                        + " in time. Compare host and port; a firewall in between also looks like this.";
            }
        }
        String own = e.getMessage() == null
                ? "no reason given"
                : e.getMessage()
                        .replaceFirst("^\\(conn=\\d+\\) ", "")
                        .replaceFirst("^ERROR: ", "")
                        .replaceAll("\\s*\\n\\s*", "; ");
        String ended = own.endsWith(".") ? own : own + ".";
        return engine.sentence(e)
                .map(start -> start + ": " + ended)
                .orElse(
                        kind == Kind.AWAY
                                ? "The database at " + place + " cannot serve us now: " + ended
                                : "The database refused it: " + ended);
    }
}
