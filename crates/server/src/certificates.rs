//! Certificates for a server on this computer.

use anyhow::Result;
use rcgen::{BasicConstraints, CertificateParams, CertifiedIssuer, DnType, IsCa, KeyPair};

/// An authority, and a server that it vouches for; all in PEM.
pub struct Certificates {
    /// The authority's certificate.
    pub authority: String,
    /// The server's certificate, for `localhost`.
    pub server: String,
    /// The server's key.
    pub server_key: String,
}

impl Certificates {
    /// New ones.
    ///
    /// # Errors
    /// When none can be made.
    pub fn new() -> Result<Self> {
        let mut params = CertificateParams::default();
        params.is_ca = IsCa::Ca(BasicConstraints::Unconstrained);
        params.distinguished_name.push(DnType::CommonName, "Tarnwerk office");
        let authority = CertifiedIssuer::self_signed(params, KeyPair::generate()?)?;
        let key = KeyPair::generate()?;
        let server = CertificateParams::new(["localhost".to_owned()])?.signed_by(&key, &authority)?;
        Ok(Self { authority: authority.pem(), server: server.pem(), server_key: key.serialize_pem() })
    }
}
