namespace JollyAlmanac.Core.Data;

/// <summary>A backup or a restore cannot be done; the message says why and what to do, in one line.</summary>
public sealed class DataCopyException(string message) : Exception(message);
