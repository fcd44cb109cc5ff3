package dachshund.links.network;

import java.net.Socket;
import java.security.cert.CertPathBuilderException;
import java.security.cert.CertPathValidatorException;
import java.security.cert.CertPathValidatorException.BasicReason;
import java.security.cert.CertPathValidatorException.Reason;
import java.security.cert.CertificateException;
import java.security.cert.PKIXReason;
import java.security.cert.X509Certificate;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.X509ExtendedTrustManager;

/** Checks as another one does, and where only the authority is not known, says which certificate the server showed. */
final class TellingTrust extends X509ExtendedTrustManager {

    private final X509ExtendedTrustManager checks;

    TellingTrust(X509ExtendedTrustManager checks) {
        this.checks = checks;
    }

    private interface Check {
        void run() throws CertificateException;
    }

    private static void told(X509Certificate[] shown, Check check) throws CertificateException {
        try {
            check.run();
        } catch (CertificateException refused) {
            if (shown.length > 0 && unknown(refused)) {
                throw new UnknownAuthority(shown, refused);
            }
            throw refused;
        }
    }

    /** No way leads from the certificate to an authority; one that has ended or is altered is another trouble. */
    private static boolean unknown(CertificateException refused) {
        boolean noWay = false;
        for (Throwable each = refused; each != null; each = each.getCause()) {
            if (each instanceof CertPathValidatorException at) {
                Reason reason = at.getReason();
                noWay |= reason == PKIXReason.NO_TRUST_ANCHOR;
                if (reason == BasicReason.EXPIRED || reason == BasicReason.NOT_YET_VALID) {
                    return false;
                }
            }
            noWay |= each instanceof CertPathBuilderException;
        }
        return noWay;
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String kind, Socket socket) throws CertificateException {
        told(chain, () -> checks.checkServerTrusted(chain, kind, socket));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String kind, SSLEngine engine) throws CertificateException {
        told(chain, () -> checks.checkServerTrusted(chain, kind, engine));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String kind) throws CertificateException {
        told(chain, () -> checks.checkServerTrusted(chain, kind));
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String kind, Socket socket) throws CertificateException {
        checks.checkClientTrusted(chain, kind, socket);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String kind, SSLEngine engine) throws CertificateException {
        checks.checkClientTrusted(chain, kind, engine);
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String kind) throws CertificateException {
        checks.checkClientTrusted(chain, kind);
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        return checks.getAcceptedIssuers();
    }
}
