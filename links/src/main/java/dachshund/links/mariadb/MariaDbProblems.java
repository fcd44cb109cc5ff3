package dachshund.links.mariadb;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import java.net.UnknownHostException;
import java.sql.SQLException;

/** What MariaDB's errors mean for the rows, by error code and SQLSTATE (MariaDB documentation, "Error Codes"). */
final class MariaDbProblems {

    private final String place;

    /** @param place host and port, for the sentences */
    MariaDbProblems(String place) {
        this.place = place;
    }

    StoreProblem problem(int batch, SQLException e) {
        SQLException told = telling(e);
        Kind kind = kind(told);
        return new StoreProblem(kind, kind == Kind.AWAY ? -1 : batch, sentence(told, kind), e);
    }

    /** The driver and the pool wrap the database's own error; the innermost SQLException with a code is the one that tells. */
    private static SQLException telling(SQLException e) {
        SQLException best = e;
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof SQLException sql && sql.getErrorCode() > 0) {
                best = sql;
            }
        }
        return best;
    }

    static Kind kind(SQLException e) {
        String state = e.getSQLState() == null ? "" : e.getSQLState();
        return switch (e.getErrorCode()) {
            // a locked table (1205, 1213) stops its own lane only
            case 1062, 1586 -> Kind.DUPLICATE;
            case 1146, 1054, 1142, 1143, 1103, 1932, 1033, 1034, 1194, 1195, 1036, 1050, 1060, 1118, 1071, 1064, 1205, 1213 -> Kind.TABLE;
            // refused log-in, unknown database, too many connections, full disk, shutting down
            case 1044, 1045, 1049, 1698, 1040, 1203, 1021, 1030, 1053, 1290, 1836, 1927, 4031 -> Kind.AWAY;
            case 1048, 1264, 1265, 1292, 1366, 1406, 1364, 1452, 4025, 3819, 1526, 1644 -> Kind.CONTENT;
            default -> state.startsWith("22") || state.startsWith("23") || state.startsWith("45") ? Kind.CONTENT
                    : state.startsWith("42") ? Kind.TABLE : Kind.AWAY;
        };
    }

    String sentence(SQLException e, Kind kind) {
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof UnknownHostException) {
                return "There is no host named " + place.substring(0, place.lastIndexOf(':')) + ". Compare the name with the server's, or use its IP address.";
            }
            if (each instanceof java.net.ConnectException) {
                return "The host is there, but refuses " + place + ". Is the database running, and is that its port?";
            }
            if (each instanceof java.net.SocketTimeoutException) {
                return "Nothing answered at " + place + " in time. Compare host and port; a firewall in between also looks like this.";
            }
        }
        String own = e.getMessage() == null ? "no reason given" : e.getMessage().replaceFirst("^\\(conn=\\d+\\) ", "");
        return switch (e.getErrorCode()) {
            case 1045, 1698 -> "The database at " + place + " refuses this user or password: " + own + ".";
            case 1044 -> "This user may not use the database: " + own + ".";
            case 1049 -> "There is no such database at " + place + ": " + own + ".";
            case 1146 -> "The table is not there: " + own + ".";
            default -> kind == Kind.AWAY ? "The database at " + place + " cannot serve us now: " + own + "."
                    : "The database refused it: " + own + ".";
        };
    }

    /** The setting to look at after an error while connecting. */
    static String field(SQLException e) {
        return switch (telling(e).getErrorCode()) {
            case 1045, 1698 -> "password";
            case 1044, 1049 -> "database";
            default -> "host";
        };
    }
}
