package dachshund.links.mariadb;

import dachshund.links.network.Trust;
import java.security.GeneralSecurityException;
import java.sql.SQLException;
import javax.net.ssl.TrustManager;
import org.mariadb.jdbc.Configuration;
import org.mariadb.jdbc.HostAddress;
import org.mariadb.jdbc.export.ExceptionFactory;
import org.mariadb.jdbc.plugin.tls.main.DefaultTlsSocketPlugin;

/**
 * TLS as the driver makes it, but a server whose authority is not believed is refused with the certificate that it showed. The
 * driver finds it as a service, by its {@link #type}.
 */
public final class TellingTls extends DefaultTlsSocketPlugin {

    static final String TYPE = "telling";

    @Override
    public String type() {
        return TYPE;
    }

    @Override
    public TrustManager[] getTrustManager(Configuration configuration, ExceptionFactory problems, HostAddress server)
            throws SQLException {
        String authority = configuration.serverSslCert();
        try {
            return Trust.authorities(authority == null ? "" : authority).getTrustManagers();
        } catch (GeneralSecurityException unread) {
            throw problems.create(unread.getMessage(), "08000", unread);
        }
    }
}
