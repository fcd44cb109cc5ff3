package dachshund.links.jdbc;

import dachshund.links.network.UnknownAuthority;
import java.security.cert.CertificateExpiredException;
import java.security.cert.CertificateNotYetValidException;
import java.sql.SQLException;
import java.util.Locale;
import java.util.Optional;

/** What stands between us and a database over TLS, said so that a person knows what to do. Drivers say it in many ways. */
final class TlsWords {

    private TlsWords() {}

    /** A sentence; empty where TLS is not the trouble. */
    static Optional<String> sentence(SQLException e, String place) {
        if (UnknownAuthority.in(e).isPresent()) {
            return Optional.of(
                    "The certificate of the database at " + place
                            + " is signed by no authority that is known here. Paste the certificate of its authority, as PEM, into \"Certificate of the authority\", or compare the one that it shows and accept it.");
        }
        StringBuilder said = new StringBuilder();
        for (Throwable each = e; each != null; each = each.getCause()) {
            if (each instanceof CertificateExpiredException) {
                return Optional.of("The certificate of the database at " + place + " has ended: " + each.getMessage()
                        + ". Whoever runs the server renews it.");
            }
            if (each instanceof CertificateNotYetValidException) {
                return Optional.of("The certificate of the database at " + place + " is not valid yet: "
                        + each.getMessage() + ". Compare the clocks of both machines.");
            }
            said.append(' ').append(String.valueOf(each.getMessage()).toLowerCase(Locale.ROOT));
        }
        return words(said.toString(), place);
    }

    private static Optional<String> words(String said, String place) {
        if (said.contains("could not be verified by hostnameverifier")
                || said.contains("doesn't correspond to certificate")
                || said.contains("no subject alternative")
                || said.contains("hostname verification failed")) {
            return Optional.of(
                    "The certificate of the database at " + place
                            + " is for another host. Use the name that stands in the certificate, or have one made for this name.");
        }
        if (said.contains("server does not support ssl") || said.contains("ssl not enabled in the server")) {
            return Optional.of("The database at " + place
                    + " offers no TLS. Whoever runs the server switches it on; nothing was sent in clear.");
        }
        if (said.contains("insecure transport are prohibited") || said.contains("no encryption")) {
            return Optional.of("The database at " + place + " takes this user over TLS only. Switch TLS on.");
        }
        return Optional.empty();
    }
}
