import { utf8ToBytes } from '@noble/hashes/utils.js';
import { expect, it } from 'vitest';
import { finishAsA, finishAsB, isSameProof, scalarOfSecret, shareOfA, shareOfB } from './second-secret.ts';

/** RFC 9382, appendix B, the vector of SPAKE2-P256-SHA256-HKDF-SHA256-HMAC-SHA256 with A = "server", B = "client". */
const vector = {
  w: 0x2ee57912099d31560b3a44b1184b9b4866e904c49d12ac5042c97dca461b1a5fn,
  x: 0x43dd0fd7215bdcb482879fca3220c6a968e66d70b1356cac18bb26c84a78d729n,
  y: 0xdcb60106f276b02606d8ef0a328c02e4b629f84f89786af5befb0bc75b6e66ben,
  shareA:
    '04a56fa807caaa53a4d28dbb9853b9815c61a411118a6fe516a8798434751470f9010153ac33d0d5f2047ffdb1a3e42c9b4e6be662766e1eeb4116988ede5f912c',
  shareB:
    '0406557e482bd03097ad0cbaa5df82115460d951e3451962f1eaf4367a420676d09857ccbc522686c83d1852abfa8ed6e4a1155cf8f1543ceca528afb591a1e0b7',
  sharedKey: '0e0672dc86f8e45565d338b0540abe69',
  proofOfA: '58ad4aa88e0b60d5061eb6b5dd93e80d9c4f00d127c65b3b35b1b5281fee38f0',
  proofOfB: 'd3e2e547f1ae04f2dbdbf0fc4b79f8ecff2dff314b5d32fe9fcef2fb26dc459b',
};

it('makes what the RFC makes', () => {
  const { w, x, y, shareA, shareB, sharedKey, proofOfA, proofOfB } = vector;
  expect(shareOfA(w, x)).toBe(shareA);
  expect(shareOfB(w, y)).toBe(shareB);
  const exchange = { sides: { a: 'server', b: 'client' }, w, shareA, shareB, aad: new Uint8Array() };
  expect(finishAsA(exchange, x)).toEqual({ sharedKey, proofOfA, proofOfB });
  expect(finishAsB(exchange, y)).toEqual({ sharedKey, proofOfA, proofOfB });
});

it('proves nothing with another secret, other keys, or bytes that are no point', async () => {
  const salt = '00'.repeat(16);
  const right = BigInt(`0x${await scalarOfSecret('Harbour · lamp · otter', salt)}`);
  expect(BigInt(`0x${await scalarOfSecret('harbour lamp  OTTER', salt)}`)).toBe(right);
  const wrong = BigInt(`0x${await scalarOfSecret('harbour lamp tern', salt)}`);
  const sides = { a: 'technician', b: 'doorstep' };
  const aad = utf8ToBytes('the keys of both');
  const shareA = shareOfA(wrong, vector.x);
  const shareB = shareOfB(right, vector.y);
  const theirs = finishAsA({ sides, w: wrong, shareA, shareB, aad }, vector.x);
  const ours = finishAsB({ sides, w: right, shareA, shareB, aad }, vector.y);
  expect(ours && theirs && isSameProof(ours.proofOfA, theirs.proofOfA)).toBe(false);

  const fair = shareOfA(right, vector.x);
  const one = finishAsA({ sides, w: right, shareA: fair, shareB, aad }, vector.x);
  const other = finishAsB({ sides, w: right, shareA: fair, shareB, aad: utf8ToBytes('other keys') }, vector.y);
  expect(one?.proofOfA).not.toBe(other?.proofOfA);
  for (const bad of ['', 'zz', '00', `04${'00'.repeat(64)}`, `02${'ff'.repeat(32)}`])
    expect(finishAsB({ sides, w: right, shareA: bad, shareB, aad }, vector.y)).toBeUndefined();
});
