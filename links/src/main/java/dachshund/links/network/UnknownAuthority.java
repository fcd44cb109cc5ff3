package dachshund.links.network;

import java.nio.charset.StandardCharsets;
import java.security.cert.CertificateEncodingException;
import java.security.cert.CertificateException;
import java.security.cert.X509Certificate;
import java.util.Base64;
import java.util.Optional;

/** A server showed a certificate that is signed by no authority that is believed here. A person may look at it and believe it. */
public final class UnknownAuthority extends CertificateException {

    private static final long serialVersionUID = 1;
    private static final int PEM_LINE = 64;

    private final String pem;

    /** @param shown what the server showed, its own certificate first; at least one */
    UnknownAuthority(X509Certificate[] shown, CertificateException cause) {
        super(
                "The certificate of " + shown[0].getSubjectX500Principal().getName()
                        + " is signed by no authority that is known here",
                cause);
        pem = pem(shown[shown.length - 1]);
    }

    /** The one among the causes; empty where the trouble is another. */
    public static Optional<UnknownAuthority> in(Throwable problem) {
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (each instanceof UnknownAuthority unknown) {
                return Optional.of(unknown);
            }
        }
        return Optional.empty();
    }

    /** What would have to be believed, as PEM (RFC 7468): the highest authority that the server shows, or its own certificate. */
    public String pem() {
        return pem;
    }

    private static String pem(X509Certificate certificate) {
        try {
            return "-----BEGIN CERTIFICATE-----\n"
                    + Base64.getMimeEncoder(PEM_LINE, "\n".getBytes(StandardCharsets.US_ASCII))
                            .encodeToString(certificate.getEncoded())
                    + "\n-----END CERTIFICATE-----\n";
        } catch (CertificateEncodingException unreadable) {
            return "";
        }
    }
}
