package dachshund.web.certificate;

import dachshund.links.opcua.OpcUaTrust;
import dachshund.web.audit.Audit;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.security.cert.CertificateEncodingException;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Certificates for OPC UA: ours, and those of servers, accepted by an administrator. */
@Needs(Right.MANAGE_KEYS)
@Controller
@RequestMapping("/plant/certificates")
class CertificateController {

    private final OpcUaTrust trust;
    private final Audit audit;

    CertificateController(OpcUaTrust trust, Audit audit) {
        this.trust = trust;
        this.audit = audit;
    }

    @GetMapping
    String list(Model model) {
        model.addAttribute("own", trust.describeOwn());
        model.addAttribute("seen", trust.seen());
        return "certificate/certificates";
    }

    @GetMapping("/own")
    ResponseEntity<byte[]> own() throws CertificateEncodingException {
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_OCTET_STREAM)
                .header("Content-Disposition", "attachment; filename=\"dachshund.der\"")
                .body(trust.own().certificate().getEncoded());
    }

    @PostMapping("/trust")
    String trust(@RequestParam String fingerprint, @RequestParam boolean on, Principal by) {
        if (on) {
            trust.trust(fingerprint);
        } else {
            trust.distrust(fingerprint);
        }
        audit.note(
                by.getName(),
                on ? "accepted a certificate" : "no longer accepts a certificate",
                "SHA-256 " + fingerprint);
        return "redirect:/plant/certificates";
    }
}
