using JollyAlmanac.Storage;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Application.Data;

/// <summary>Why something could not be saved that is nobody's mistake and no bug.</summary>
public enum Outage
{
    /// <summary>It is neither.</summary>
    None,

    /// <summary>Another writing went on for too long; it will work in a moment.</summary>
    Busy,

    /// <summary>The disk is full, read only or failing.</summary>
    CannotWrite,
}

/// <summary>Tells outages from bugs.</summary>
public static class Outages
{
    /// <summary>What an exception that ended a request stands for.</summary>
    public static Outage Of(Exception failure) =>
        failure switch
        {
            SqliteException busy when AlmanacDatabase.IsBusy(busy) => Outage.Busy,
            SqliteException full when AlmanacDatabase.CannotWrite(full) => Outage.CannotWrite,
            // No space left: ENOSPC, and as Windows has it.
            IOException when (failure.HResult & 0xFFFF) is 28 or 112 => Outage.CannotWrite,
            _ => Outage.None,
        };
}
