using System.Security.Cryptography;
using System.Text;

namespace SteadyLark.Store.Basics;

/// <summary>A secret in a link or device: 192 random bits, stored only as its hash.</summary>
public static class LinkToken
{
    /// <summary>A new token as 48 hexadecimal digits.</summary>
    public static string New() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));

    /// <summary>What is stored of a token: its SHA-256 as 64 hexadecimal digits (FIPS 180-4).</summary>
    public static string Hash(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
